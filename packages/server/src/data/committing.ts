/**
 * The only file that writes rows of tables. Everything that happens to one is a numbered change in its log, written in the same
 * transaction as the rows; whoever follows the log knows all. What is no table yet is written by `bring-ins.ts`.
 */
import { randomUUID } from 'node:crypto';
import { and, eq, isNull, sql } from 'drizzle-orm';
import type { Change, ChangeCounts, ChangeKind, Column, RowChange } from '@usual-needle/contract';
import type { Database } from './database.js';
import { CHANNEL } from './notices.js';
import { changes, rows, tables } from './schema.js';
import { areRows, changeOf } from './tables.js';

/** Rows read or written by one statement of an edit. */
const AT_ONCE = 5_000;

export type Transaction = Parameters<Parameters<Database['db']['transaction']>[0]>[0];

export type TableRow = typeof tables.$inferSelect;

/** What was done to a table. */
export interface Done {
  readonly kind: ChangeKind;
  readonly who?: string | null | undefined;
  readonly rowChanges: readonly RowChange[];
  /** The columns from then on, if they change. */
  readonly columns?: readonly Column[] | undefined;
  readonly key?: string | null | undefined;
  /** Number of the change that this one undoes. */
  readonly undoes?: number | null;
}

/** Columns whose names a change keeps. */
const COLUMNS_NAMED = 20;

function countsOf(rowChanges: readonly RowChange[], columns: readonly Column[]): ChangeCounts {
  const touched = new Set<number>();
  let [added, removed] = [0, 0];
  for (const { before, after } of rowChanges) {
    if (before === null) added++;
    else if (after === null) removed++;
    else for (let i = 0; i < columns.length; i++) if ((before[i] ?? '') !== (after[i] ?? '')) touched.add(i);
  }
  const names = [...touched].sort((a, b) => a - b).map((i) => columns[i].name);
  return { added, removed, changed: rowChanges.length - added - removed, columns: names.slice(0, COLUMNS_NAMED) };
}

export class Committing {
  /** Which server it is, among those on the same database. */
  readonly name = randomUUID();

  constructor(private readonly database: Database) {}

  /** A table that nobody else changes until the transaction is over; undefined if there is none. */
  async locked(transaction: Transaction, id: number): Promise<TableRow | undefined> {
    const [table] = await transaction
      .select()
      .from(tables)
      .where(and(eq(tables.id, id), isNull(tables.deletedAt)))
      .for('update');
    return table?.completedAt ? table : undefined;
  }

  /** The change that was made under a key, if one was. */
  async byKey(transaction: Transaction, tableId: number, key: string | undefined): Promise<Change | undefined> {
    if (key === undefined) return undefined;
    const [found] = await transaction
      .select()
      .from(changes)
      .where(and(eq(changes.tableId, tableId), eq(changes.key, key)));
    return found && changeOf(found);
  }

  /** Writes rows, and the columns if they change, with the change that says so. */
  async commit(
    transaction: Transaction,
    table: TableRow,
    { kind, who, rowChanges, columns, key = null, undoes = null }: Done,
    nextRow = table.nextRow,
  ): Promise<Change> {
    const number = table.lastChange + 1;
    await this.writeRows(transaction, table.id, number, rowChanges);
    const counts = countsOf(rowChanges, columns ?? table.columns);
    const change = {
      number,
      kind,
      who: who?.trim() ?? null,
      key,
      undoes,
      rows: rowChanges.length,
      counts,
      rowChanges,
      columns: columns ? { before: table.columns, after: columns } : null,
    };
    const [{ at }] = await transaction
      .insert(changes)
      .values({ ...change, tableId: table.id })
      .returning({ at: changes.at });
    await transaction
      .update(tables)
      .set({
        rowCount: table.rowCount + counts.added - counts.removed,
        nextRow,
        ...(columns && { columns: [...columns], version: table.version + 1 }),
        lastChange: number,
        changedAt: at,
      })
      .where(eq(tables.id, table.id));
    await this.tell(table.id, transaction);
    return { ...change, table: table.id, at: new Date(at).toISOString() };
  }

  /** Rows by their ids, those that are there. */
  async rowsOf(
    transaction: Transaction,
    tableId: number,
    ids: readonly number[],
  ): Promise<Map<number, typeof rows.$inferSelect>> {
    const found = new Map<number, typeof rows.$inferSelect>();
    for (let at = 0; at < ids.length; at += AT_ONCE) {
      const some = await transaction
        .select()
        .from(rows)
        .where(areRows(tableId, ids.slice(at, at + AT_ONCE)));
      for (const row of some) found.set(row.id, row);
    }
    return found;
  }

  private async writeRows(
    transaction: Transaction,
    tableId: number,
    number: number,
    rowChanges: readonly RowChange[],
  ): Promise<void> {
    const removed = rowChanges.filter(({ after }) => after === null).map(({ id }) => id);
    if (removed.length > 0) await transaction.delete(rows).where(areRows(tableId, removed));
    const written = rowChanges.filter(({ after }) => after !== null);
    for (let at = 0; at < written.length; at += AT_ONCE) {
      const some = written.slice(at, at + AT_ONCE);
      const json = JSON.stringify(some.map(({ id, after }) => ({ id, cells: after })));
      await this.database.checkRoom(2 * json.length);
      await transaction.execute(
        sql`insert into ${rows} (table_id, id, version, cells) select ${tableId}, id, ${number}, cells from jsonb_to_recordset(${json}::jsonb) as batch (id bigint, cells text) on conflict (table_id, id) do update set cells = excluded.cells, version = excluded.version`,
      );
    }
  }

  /** Tells whoever follows the database that a table is not what it was; of a change once it is committed. */
  async tell(tableId: number, by: Pick<Transaction, 'execute'> = this.database.db): Promise<void> {
    await by.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify({ table: tableId, by: this.name })})`);
  }
}
