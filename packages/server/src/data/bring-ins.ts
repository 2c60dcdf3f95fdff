/**
 * Rows on their way to be a table. They are written batch by batch, since a transaction as long as that would keep everybody else
 * waiting, and no one sees them before the first change is written, which makes them a table.
 */
import { and, eq, isNull, lt, sql } from 'drizzle-orm';
import type { Column, TableSummary, Tidied } from '@usual-needle/contract';
import type { Changes } from './changes.js';
import type { Database } from './database.js';
import { PARTED } from './records.js';
import { changes, rows, tables } from './schema.js';
import { SUMMARY, summaryOf } from './tables.js';

/** Rows taken away by one statement, so that others are not kept waiting. */
const ERASED_AT_ONCE = 10_000;
/** A bring-in that has written nothing for so long, in minutes, is one whose server has gone. */
const ABANDONED = 30;
/** The time after which a bring-in says again that it is still under way, in milliseconds. */
const TOUCHED_MS = 60_000;

export class BringIns {
  /** The bring-ins of this server that are under way, and when they said so last. */
  private readonly underWay = new Map<number, number>();

  constructor(
    private readonly database: Database,
    private readonly changes: Changes,
  ) {}

  private get db(): Database['db'] {
    return this.database.db;
  }

  /** Begins to bring a table in, which no one sees before `finish`. @returns its id */
  async begin(name: string): Promise<number> {
    const [{ id }] = await this.db.insert(tables).values({ name, columns: [] }).returning({ id: tables.id });
    this.underWay.set(id, Date.now());
    return id;
  }

  /**
   * Writes rows of a bring-in.
   * @param first id of the first of them @param text see `recordsText`
   * @throws DiskFull
   */
  async put(id: number, first: number, text: string): Promise<void> {
    if (text === '') return;
    // Of what is written the log of the database has a copy.
    await this.database.checkRoom(2 * text.length);
    await this.db.execute(
      sql`insert into ${rows} (table_id, id, cells) select ${id}, ${first} - 1 + n, cells from string_to_table(${text}, ${PARTED}) with ordinality as batch (cells, n)`,
    );
    if (this.database.embedded || Date.now() - (this.underWay.get(id) ?? 0) < TOUCHED_MS) return;
    this.underWay.set(id, Date.now());
    await this.db
      .update(tables)
      .set({ changedAt: sql`now()` })
      .where(eq(tables.id, id));
  }

  /** Ends a bring-in: from now on it is a table. Its first change is the bring-in. @param tidied what was tidied in its file */
  async finish(
    id: number,
    columns: readonly Column[],
    rowCount: number,
    { source, tidied }: { readonly source?: string | undefined; readonly tidied?: Tidied | undefined } = {},
  ): Promise<TableSummary> {
    const table = await this.db.transaction(async (transaction) => {
      await transaction.insert(changes).values({ tableId: id, number: 1, kind: 'brought in', rows: rowCount });
      const [written] = await transaction
        .update(tables)
        .set({
          columns: [...columns],
          rowCount,
          nextRow: rowCount + 1,
          lastChange: 1,
          saidKnown: true,
          source,
          refreshedBy: tidied && { key: [], gone: 'keep', columns: [], tidied },
          completedAt: sql`now()`,
          changedAt: sql`now()`,
        })
        .where(eq(tables.id, id))
        .returning(SUMMARY);
      return written;
    });
    this.underWay.delete(id);
    await this.count();
    await this.changes.tell(id);
    return summaryOf(table);
  }

  /** Takes a table away for good, some rows at a time. */
  async erase(id: number): Promise<void> {
    for (;;) {
      const gone = await this.db.execute(
        sql`delete from ${rows} where ctid = any (array(select ctid from ${rows} where table_id = ${id} limit ${ERASED_AT_ONCE}))`,
      );
      if ((gone.rowCount ?? 0) < ERASED_AT_ONCE) break;
    }
    await this.db.delete(tables).where(eq(tables.id, id));
    this.underWay.delete(id);
    await this.tidy();
  }

  /**
   * Lets the database count its rows anew. Of a table that it knows nothing of it takes all of the rest for each piece that is
   * read, and sorts it, which for a million rows takes minutes.
   */
  async count(): Promise<void> {
    await this.db.execute(sql`analyze ${rows}`);
  }

  /** Gives room back to the disk. A PostgreSQL of its own does that by itself; the embedded one runs nothing by itself. */
  async tidy(): Promise<void> {
    if (this.database.embedded) await this.db.execute(sql`vacuum ${rows}`);
  }

  /** Takes away what bring-ins that never ended left behind. Those that may still be under way elsewhere are left alone. */
  async sweep(): Promise<void> {
    const old = this.database.embedded
      ? undefined
      : lt(tables.changedAt, sql`now() - make_interval(mins => ${ABANDONED})`);
    const left = await this.db
      .select({ id: tables.id })
      .from(tables)
      .where(and(isNull(tables.completedAt), old));
    for (const { id } of left) if (!this.underWay.has(id)) await this.erase(id);
  }
}
