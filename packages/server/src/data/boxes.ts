/** Boxes as they are kept, by version. */
import { and, asc, eq, gt, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import type { PgUpdateSetSource } from 'drizzle-orm/pg-core';
import {
  columnAt,
  LARGEST_NUMBER,
  LIMITS,
  type Box,
  type BoxSummary,
  type Column,
  type Deleted,
  type StoredBox,
  type ValueChange,
} from '@usual-needle/contract';
import type { Database } from './database.js';
import { boxes, tables } from './schema.js';
import { daysAgo } from './tables.js';
import { isOneOf, type Versions } from './versions.js';

function storedBox({ id, tableId, name, version, definition, changedAt }: typeof boxes.$inferSelect): StoredBox {
  return { id, tableId, name, version, box: definition, changedAt: new Date(changedAt).toISOString() };
}

/** Letters of what a box asks, besides its settings, that the shelf tells. */
const LONGEST_ASKED = 2_000;

/** Leaves out what a box finds: what is typed on the shelf takes its place. */
function withoutTyped(strands: Box['strands']): Box['strands'] {
  return strands?.map((strand, i) => (i === 0 && strand.verb === 'find' ? { ...strand, text: '' } : strand));
}

/** Gives what the shelf says of a box. */
function summaryOf({ box, ...stored }: StoredBox, columns: number): BoxSummary {
  const {
    format,
    version,
    threaded,
    everyColumn,
    reading,
    need,
    where,
    case: letters,
    accents,
    strands,
    pickers,
  } = box;
  const asked = { strands: withoutTyped(strands), pickers };
  const whole = JSON.stringify(asked).length <= LONGEST_ASKED;
  const { effect, flip, grain, nothingTyped, searches, edited, sort } = box;
  return {
    ...stored,
    box: {
      format,
      version,
      threaded,
      everyColumn,
      reading,
      need,
      where,
      case: letters,
      accents,
      ...(whole && asked),
      effect,
      flip,
      grain,
      nothingTyped,
      searches,
      edited,
      sort,
    },
    whole,
    columnsShown: box.columns?.length ?? columns,
    prompt: box.wording?.prompt ?? null,
  };
}

export class Boxes {
  constructor(private readonly db: Database['db']) {}

  /** Boxes of the tables on the shelf. */
  async list(): Promise<BoxSummary[]> {
    const found = await this.db
      .select({
        box: boxes,
        columns: sql<number>`(select count(*)::int from jsonb_array_elements(${tables.columns}) as one where one -> 'removed' is null)`,
      })
      .from(boxes)
      .innerJoin(tables, eq(tables.id, boxes.tableId))
      .where(and(isNull(boxes.deletedAt), isNull(tables.deletedAt)))
      .orderBy(asc(boxes.id));
    return found.map(({ box, columns }) => summaryOf(storedBox(box), columns));
  }

  async find(id: number): Promise<StoredBox | undefined> {
    const [found] = await this.db
      .select({ box: boxes })
      .from(boxes)
      .innerJoin(tables, eq(tables.id, boxes.tableId))
      .where(and(eq(boxes.id, id), isNull(boxes.deletedAt), isNull(tables.deletedAt)));
    return found && storedBox(found.box);
  }

  /** The table that a box is on, deleted or not; undefined if there is no such box. */
  async tableOf(id: number): Promise<number | undefined> {
    if (id > LARGEST_NUMBER) return undefined;
    const [found] = await this.db.select({ tableId: boxes.tableId }).from(boxes).where(eq(boxes.id, id));
    return found?.tableId;
  }

  async add(tableId: number, name: string, definition: Box): Promise<StoredBox> {
    const [box] = await this.db.insert(boxes).values({ tableId, name, definition }).returning();
    return storedBox(box);
  }

  /** Boxes of a table, with how often each was opened. */
  async ofTable(tableId: number): Promise<{ id: number; name: string; opened: number; box: Box }[]> {
    return this.db
      .select({ id: boxes.id, name: boxes.name, opened: boxes.opened, box: boxes.definition })
      .from(boxes)
      .where(and(eq(boxes.tableId, tableId), isNull(boxes.deletedAt)))
      .orderBy(asc(boxes.id));
  }

  /** A box was opened. */
  async wasOpened(id: number): Promise<void> {
    await this.db
      .update(boxes)
      .set({ opened: sql`${boxes.opened} + 1` })
      .where(eq(boxes.id, id));
  }

  /** @returns undefined if the box is not there, or not in one of those versions any more */
  change(id: number, versions: Versions, name: string, definition: Box): Promise<StoredBox | undefined> {
    return this.write(id, versions, { name, definition });
  }

  /** @returns undefined if the box is not there, or not in one of those versions any more */
  delete(id: number, versions: Versions): Promise<StoredBox | undefined> {
    return this.write(id, versions, { deletedAt: sql`now()` });
  }

  /** Brings a deleted box back. @returns undefined if there is none */
  async restore(id: number): Promise<StoredBox | undefined> {
    const [box] = await this.db
      .update(boxes)
      .set({ deletedAt: null, version: sql`${boxes.version} + 1` })
      .where(and(eq(boxes.id, id), gt(boxes.deletedAt, daysAgo(LIMITS.daysKept))))
      .returning();
    return box && this.find(box.id);
  }

  private async write(
    id: number,
    versions: Versions,
    change: PgUpdateSetSource<typeof boxes>,
  ): Promise<StoredBox | undefined> {
    const [box] = await this.db
      .update(boxes)
      .set({ ...change, version: sql`${boxes.version} + 1`, changedAt: sql`now()` })
      .where(and(eq(boxes.id, id), isNull(boxes.deletedAt), isOneOf(boxes.version, versions)))
      .returning();
    return box && storedBox(box);
  }

  /** A value of a column has become another one: pickers that ask for it ask for that. */
  async renameValue(tableId: number, column: Column, { from, to }: Pick<ValueChange, 'from' | 'to'>): Promise<void> {
    const found = await this.db.select().from(boxes).where(eq(boxes.tableId, tableId));
    for (const { id, version, name, definition } of found) {
      const pickers = (definition.pickers ?? []).map((picker) =>
        'values' in picker && columnAt([column], picker.column) === 0 && picker.values.includes(from)
          ? { ...picker, values: [...new Set(picker.values.map((value) => (value === from ? to : value)))] }
          : picker,
      );
      const changed = pickers.some((picker, i) => picker !== definition.pickers![i]);
      // One that somebody changes just now is theirs to mend.
      if (changed) await this.change(id, [version], name, { ...definition, pickers });
    }
  }

  /** Boxes that can be brought back; those of a deleted table come back with it. */
  async deleted(): Promise<Deleted[]> {
    const found = await this.db
      .select({ id: boxes.id, name: boxes.name, table: tables.name, deletedAt: boxes.deletedAt })
      .from(boxes)
      .innerJoin(tables, eq(tables.id, boxes.tableId))
      .where(and(isNotNull(boxes.deletedAt), isNull(tables.deletedAt), gt(boxes.deletedAt, daysAgo(LIMITS.daysKept))));
    return found.map(({ id, name, table, deletedAt }) => ({
      what: 'box',
      id,
      name,
      table,
      deletedAt: new Date(deletedAt!).toISOString(),
    }));
  }

  /** Forgets boxes that were deleted too long ago to be brought back. */
  async forget(): Promise<void> {
    await this.db.delete(boxes).where(lt(boxes.deletedAt, daysAgo(LIMITS.daysKept)));
  }
}
