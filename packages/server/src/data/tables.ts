/** Reading tables, their rows and their log; and what is done with a table as a whole. Rows are written by `committing.ts`. */
import { and, asc, count, desc, eq, getTableColumns, gt, isNotNull, isNull, lt, sql, type SQL } from 'drizzle-orm';
import {
  LIMITS,
  type Change,
  type Column,
  type Deleted,
  type RowHistoryEntry,
  type StoredRow,
  type TableChange,
  type TableSummary,
} from '@usual-needle/contract';
import type { Database } from './database.js';
import { cellsSize, cutBySize, loggedRows, piecesAbout, piecesOf } from './logged-rows.js';
import { PARTED } from './records.js';
import type { LoggedRow } from './said.js';
import { changes, rows, tables } from './schema.js';
import { isOneOf, type Versions } from './versions.js';

/** The columns of the database that are read to tell of a table; see `summaryOf`. */
export const SUMMARY = {
  id: tables.id,
  name: tables.name,
  description: tables.description,
  columns: tables.columns,
  version: tables.version,
  change: tables.lastChange,
  changedAt: tables.changedAt,
  rows: tables.rowCount,
  refreshedBy: tables.refreshedBy,
  lateSince: tables.lateSince,
};

/** Rows read at a time, where nobody says otherwise. */
export const ROWS_AT_ONCE = 1_000;
/** Changes read from the log at a time. */
const LOG_BATCH = 50;
/** Rows of a change that are told to who missed it. */
const MISSED_ROWS = 20;
/** Rows of a change that are told with the history. */
const TOLD_ROWS = 3;

/** A change as it is kept, as it is told. */
export function changeOf(
  { tableId, at, pieces: _, ...change }: typeof changes.$inferSelect,
  rowChanges: readonly LoggedRow[] | null = change.rowChanges,
): Change {
  const told = rowChanges?.map(({ id, before, after }) => ({ id, before, after })) ?? null;
  return { ...change, rowChanges: told, table: tableId, at: new Date(at).toISOString() };
}

/** A table's summary, null where there is nothing to be told. */
type Read = Omit<TableSummary, 'refreshedBy' | 'lateSince'> & {
  [Key in 'refreshedBy' | 'lateSince']?: TableSummary[Key] | null;
};

export function summaryOf({ refreshedBy, lateSince, ...table }: Read): TableSummary {
  return {
    ...table,
    ...(refreshedBy && { refreshedBy }),
    ...(lateSince && { lateSince: new Date(lateSince).toISOString() }),
    changedAt: new Date(table.changedAt).toISOString(),
  };
}

/** A moment so many days ago. */
export function daysAgo(days: number): SQL {
  return sql`now() - make_interval(days => ${days})`;
}

/** The condition that a row is one of a table's, by their ids: however many, they are one parameter. */
export function areRows(tableId: number, ids: readonly number[]): SQL | undefined {
  return and(eq(rows.tableId, tableId), sql`${rows.id} = any(${sql.param(ids)}::bigint[])`);
}

/** Bytes of rows that are read at once; one row at least. */
const BYTES_AT_ONCE = 8 * 1024 * 1024;

/**
 * The next rows of a table, so many at most, and so many bytes: a few may be very long. Their sizes are told without reading them
 * (`octet_length` looks at what stands for a long value, not at the value).
 */
function someRows(tableId: number, after: number, limit: number): SQL {
  return sql`(select id, version, cells from (select id, version, cells, sum(octet_length(cells)) over (order by id) - octet_length(cells) as before from ${rows} where table_id = ${tableId} and id > ${after} order by id limit ${limit}) as next where before < ${BYTES_AT_ONCE}) as batch`;
}

/** Some rows in one text, parted as `recordsText` does. */
interface RowsText {
  readonly text: string;
  /** Id of the last of them. */
  readonly last: number;
  readonly count: number;
}

/** Ids whose sizes are asked for at once. */
const IDS_AT_ONCE = 5_000;

/** Ids of rows in groups of about so many bytes; those that are not there are in none. */
export async function* bySize(
  db: Pick<Database['db'], 'select'>,
  tableId: number,
  ids: readonly number[],
): AsyncGenerator<number[]> {
  for (let at = 0; at < ids.length; at += IDS_AT_ONCE) {
    const sizes = await db
      .select({ id: rows.id, bytes: sql<number>`octet_length(${rows.cells})` })
      .from(rows)
      .where(areRows(tableId, ids.slice(at, at + IDS_AT_ONCE)));
    for (const some of cutBySize(sizes, ({ bytes }) => Number(bytes), BYTES_AT_ONCE)) yield some.map(({ id }) => id);
  }
}

/** Where the tables of the demo are said to come from. */
export const DEMO_SOURCE = 'demo';

export class Tables {
  constructor(private readonly db: Database['db']) {}

  async list(): Promise<TableSummary[]> {
    const found = await this.db
      .select(SUMMARY)
      .from(tables)
      .where(and(isNotNull(tables.completedAt), isNull(tables.deletedAt)))
      .orderBy(asc(tables.id));
    return found.map(summaryOf);
  }

  async find(id: number): Promise<TableSummary | undefined> {
    const [table] = await this.db
      .select(SUMMARY)
      .from(tables)
      .where(and(eq(tables.id, id), isNotNull(tables.completedAt), isNull(tables.deletedAt)));
    return table && summaryOf(table);
  }

  /** Rows of a table after the row `after`, in the table's own order; of one that is still being brought in, too. */
  async rows(tableId: number, after: number, limit: number): Promise<StoredRow[]> {
    const { rows: found } = await this.db.execute<{ id: string; version: number; cells: string }>(
      sql`select id, version, cells from ${someRows(tableId, after, limit)} order by id`,
    );
    return found.map(({ id, version, cells }) => ({ id: Number(id), version, cells: JSON.parse(cells) as string[] }));
  }

  /** All of them, so many at a time. */
  async *all(tableId: number, atOnce = ROWS_AT_ONCE): AsyncGenerator<StoredRow[]> {
    for (let after = 0; ;) {
      const some = await this.rows(tableId, after, atOnce);
      if (some.length === 0) return;
      yield some;
      after = some[some.length - 1].id;
    }
  }

  /**
   * Does what `rows` does, in one text for whoever searches them: of each row its id, a space, and its cells as JSON.
   * @returns undefined where there are no more
   */
  async rowsText(tableId: number, after: number, limit: number): Promise<RowsText | undefined> {
    const { rows: found } = await this.db.execute<{ text: string | null; last: string; count: number }>(
      sql`select string_agg(id || ' ' || cells, ${PARTED} order by id) as text, max(id) as last, count(*)::int as count from ${someRows(tableId, after, limit)}`,
    );
    const [{ text, last, count }] = found;
    return text === null ? undefined : { text, last: Number(last), count };
  }

  /** Rows by their ids. */
  async rowsOf(tableId: number, ids: readonly number[]): Promise<(StoredRow & { readonly said: string | null })[]> {
    const all: (StoredRow & { readonly said: string | null })[] = [];
    for await (const some of bySize(this.db, tableId, ids))
      for (const row of await this.db
        .select({ id: rows.id, version: rows.version, cells: rows.cells, said: rows.said })
        .from(rows)
        .where(areRows(tableId, some)))
        all.push(row);
    return all;
  }

  /** The log after a change: so many at most, and fewer where they are long. @param which those changes only */
  async changes(tableId: number, after: number, limit: number, which?: SQL): Promise<Change[]> {
    const found = await this.db
      .select()
      .from(changes)
      .where(and(eq(changes.tableId, tableId), gt(changes.number, after), which))
      .orderBy(asc(changes.number))
      .limit(limit);
    const all: Change[] = [];
    let letters = 0;
    for (const change of found) {
      const logged = await loggedRows(this.db, change);
      all.push(changeOf(change, logged));
      for (const { before, after } of logged ?? []) letters += cellsSize(before) + cellsSize(after);
      if (letters > BYTES_AT_ONCE) break;
    }
    return all;
  }

  /**
   * The rows that somebody removed, as they were then. Not told are those that a file no longer had, those that an undoing took
   * away, and those that had been added here: of them no file has said anything.
   */
  async *removedHere(tableId: number): AsyncGenerator<readonly string[]> {
    const byHand = sql`${changes.kind} not in ('brought in', 'refreshed', 'undone')`;
    const some = sql`coalesce((${changes.counts}->>'removed')::int, 1) + coalesce((${changes.counts}->>'added')::int, 1) > 0`;
    const addedHere = new Set<number>();
    for await (const { rowChanges } of this.log(tableId, 0, and(byHand, some)))
      for (const { id, before, after } of rowChanges ?? [])
        if (before === null) addedHere.add(id);
        else if (after === null && !addedHere.has(id)) yield before;
  }

  /** Tells when a change was made, to the microsecond; undefined if there is none of that number. */
  async timeOf(tableId: number, number: number): Promise<string | undefined> {
    const [found] = await this.db
      .select({ at: changes.at })
      .from(changes)
      .where(and(eq(changes.tableId, tableId), eq(changes.number, number)));
    return found?.at;
  }

  /** A table's columns as the first change after a given one that changed any found them; undefined if none did. */
  async columnsBefore(tableId: number, after: number): Promise<readonly Column[] | undefined> {
    const [found] = await this.db
      .select({ columns: changes.columns })
      .from(changes)
      .where(and(eq(changes.tableId, tableId), gt(changes.number, after), isNotNull(changes.columns)))
      .orderBy(asc(changes.number))
      .limit(1);
    return found?.columns?.before;
  }

  /** The log after a change, all of it, some at a time. @param which those changes only */
  async *log(tableId: number, after: number, which?: SQL): AsyncGenerator<Change> {
    for (let known = after; ;) {
      const some = await this.changes(tableId, known, LOG_BATCH, which);
      yield* some;
      if (some.length === 0) return;
      known = some[some.length - 1].number;
    }
  }

  /** The log, last first, before a change; what they did row by row only of small ones. */
  history(tableId: number, before: number | undefined, limit: number): Promise<Change[]> {
    const which = before === undefined ? undefined : lt(changes.number, before);
    return this.brief(and(eq(changes.tableId, tableId), which), desc(changes.number), limit, TOLD_ROWS);
  }

  /** The log after a change, as it is told to whoever missed it: row by row only of small ones. */
  newsAfter(tableId: number, after: number, limit: number): Promise<Change[]> {
    const which = and(eq(changes.tableId, tableId), gt(changes.number, after));
    return this.brief(which, asc(changes.number), limit, MISSED_ROWS);
  }

  private async brief(which: SQL | undefined, order: SQL, limit: number, most: number): Promise<Change[]> {
    const found = await this.db
      .select({
        ...getTableColumns(changes),
        rowChanges: sql<
          readonly LoggedRow[] | null
        >`case when ${changes.rows} <= ${most} then ${changes.rowChanges} end`,
      })
      .from(changes)
      .where(which)
      .orderBy(order)
      .limit(limit);
    return found.map((change) => changeOf(change));
  }

  /** A change with the first of the rows that it was about. */
  async changeShown(tableId: number, number: number, most: number): Promise<Change | undefined> {
    const first = sql.raw(`'$[0 to ${most - 1}]'`);
    const [found] = await this.db
      .select({
        ...getTableColumns(changes),
        rowChanges: sql<readonly LoggedRow[] | null>`jsonb_path_query_array(${changes.rowChanges}, ${first})`,
      })
      .from(changes)
      .where(and(eq(changes.tableId, tableId), eq(changes.number, number)));
    if (!found) return undefined;
    if (found.pieces === 0) return changeOf(found);
    // A piece is about as much as is ever shown, however few rows it has.
    for await (const some of piecesOf(this.db, tableId, number)) return changeOf(found, some.slice(0, most));
    return changeOf(found);
  }

  /** Gives what happened to one row, last first. */
  async rowHistory(tableId: number, row: number, limit: number): Promise<RowHistoryEntry[]> {
    const found = await this.db
      .select({
        number: changes.number,
        kind: changes.kind,
        who: changes.who,
        at: changes.at,
        one: sql<LoggedRow>`jsonb_path_query_first(${changes.rowChanges}, '$[*] ? (@.id == $id)', ${JSON.stringify({ id: row })}::jsonb)`,
      })
      .from(changes)
      .where(and(eq(changes.tableId, tableId), sql`${changes.rowChanges} @> ${JSON.stringify([{ id: row }])}::jsonb`))
      .orderBy(desc(changes.number))
      .limit(limit);
    const large = await piecesAbout(this.db, tableId, row, limit);
    return [...found, ...large]
      .sort((a, b) => b.number - a.number)
      .slice(0, limit)
      .map(({ at, one: { before, after }, ...entry }) => ({
        ...entry,
        at: new Date(at).toISOString(),
        before,
        after,
      }));
  }

  /** Renames or describes a table. @returns undefined if there is none, or not in one of those versions any more */
  async describe(
    id: number,
    versions: Versions,
    { name, description }: TableChange,
  ): Promise<TableSummary | undefined> {
    const done = await this.db
      .update(tables)
      .set({ name, description, version: sql`${tables.version} + 1` })
      .where(and(eq(tables.id, id), isNull(tables.deletedAt), isOneOf(tables.version, versions)))
      .returning({ id: tables.id });
    return done.length > 0 ? this.find(id) : undefined;
  }

  async delete(id: number): Promise<boolean> {
    const done = await this.db
      .update(tables)
      .set({ deletedAt: sql`now()` })
      .where(and(eq(tables.id, id), isNotNull(tables.completedAt), isNull(tables.deletedAt)))
      .returning({ id: tables.id });
    return done.length > 0;
  }

  /** Ids of the tables that came from somewhere, lenders of others first. @param deleted whether those that were deleted, or the others */
  async idsFrom(source: string, deleted: boolean): Promise<number[]> {
    const found = await this.db
      .select({ id: tables.id })
      .from(tables)
      .where(
        and(
          eq(tables.source, source),
          isNotNull(tables.completedAt),
          deleted ? gt(tables.deletedAt, daysAgo(LIMITS.daysKept)) : isNull(tables.deletedAt),
        ),
      )
      .orderBy(asc(tables.id));
    return found.map(({ id }) => id);
  }

  /** Brings a deleted table back. @returns undefined if there is none */
  async restore(id: number): Promise<TableSummary | undefined> {
    await this.db
      .update(tables)
      .set({ deletedAt: null })
      .where(and(eq(tables.id, id), gt(tables.deletedAt, daysAgo(LIMITS.daysKept))));
    return this.find(id);
  }

  async deleted(): Promise<Deleted[]> {
    const found = await this.db
      .select({ id: tables.id, name: tables.name, deletedAt: tables.deletedAt })
      .from(tables)
      .where(gt(tables.deletedAt, daysAgo(LIMITS.daysKept)));
    return found.map(({ id, name, deletedAt }) => ({
      what: 'table',
      id,
      name,
      table: null,
      deletedAt: new Date(deletedAt!).toISOString(),
    }));
  }

  /** Tables that were deleted too long ago to be brought back. */
  async pastKeeping(): Promise<number[]> {
    const found = await this.db
      .select({ id: tables.id })
      .from(tables)
      .where(lt(tables.deletedAt, daysAgo(LIMITS.daysKept)));
    return found.map(({ id }) => id);
  }

  /** True if no table was ever brought in. */
  async isNew(): Promise<boolean> {
    const [{ tableCount }] = await this.db.select({ tableCount: count() }).from(tables);
    return tableCount === 0;
  }
}
