/**
 * The only file that writes rows of tables. Everything that happens to one is a numbered change in its log, written in the same
 * transaction as the rows; whoever follows the log knows all. What is no table yet is written by `bring-ins.ts`.
 */
import { randomUUID } from 'node:crypto';
import { and, eq, isNull, sql } from 'drizzle-orm';
import type { BoxNews, Change, ChangeCounts, ChangeKind, Column, RowChange } from '@usual-needle/contract';
import type { Database } from './database.js';
import { cellsSize, cutBySize, pieced, writePieces } from './logged-rows.js';
import { CHANNEL } from './notices.js';
import { afterEdit, readSaid, type LoggedRow, type RowSaid, type Said } from './said.js';
import { changes, rows, tables } from './schema.js';
import { areRows, bySize } from './tables.js';

export type Transaction = Parameters<Parameters<Database['db']['transaction']>[0]>[0];

type TableRow = typeof tables.$inferSelect;

/** A change that is to be committed to a table. */
interface Done {
  readonly kind: ChangeKind;
  readonly who?: string | null | undefined;
  readonly rowChanges: readonly RowChange[];
  /** The rows that are changed or removed, as they were. */
  readonly before: ReadonlyMap<number, RowSaid>;
  /** The row as the last file says it from then on; if not given, the change is an edit by hand, which no file has said. */
  readonly saidAfter?: ((change: RowChange) => Said | null) | undefined;
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
  let [added, changed, removed] = [0, 0, 0];
  for (const { before, after } of rowChanges) {
    if (before === null) added++;
    else if (after === null) removed++;
    else {
      let differs = false;
      for (let i = 0; i < columns.length; i++)
        if ((before[i] ?? '') !== (after[i] ?? '')) {
          touched.add(i);
          differs = true;
        }
      // Of a row that is as it was, what the file says of it has changed.
      if (differs) changed++;
    }
  }
  const names = [...touched].sort((a, b) => a - b).map((i) => columns[i].name);
  return { added, removed, changed, columns: names.slice(0, COLUMNS_NAMED) };
}

function withSaid(change: RowChange, now: RowSaid | undefined, saidAfter: Done['saidAfter']): LoggedRow {
  const before = readSaid(now?.said);
  const after =
    change.after === null ? null : saidAfter ? saidAfter(change) : afterEdit(change.before, before, change.after);
  return before || after ? { ...change, said: { before, after } } : change;
}

export class Committing {
  /** The name of this server among those on the same database. */
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

  /** Writes rows, and the columns if they change, with the change that says so. */
  async commit(
    transaction: Transaction,
    table: TableRow,
    { kind, who, rowChanges, before, saidAfter, columns, key = null, undoes = null }: Done,
    nextRow = table.nextRow,
  ): Promise<Change> {
    const number = table.lastChange + 1;
    if (new Set(rowChanges.map(({ id }) => id)).size < rowChanges.length) throw new Error('a change names a row twice');
    const logged = rowChanges.map((change) => withSaid(change, before.get(change.id), saidAfter));
    const pieces = pieced(logged);
    await this.writeRows(transaction, table.id, number, logged);
    const counts = countsOf(rowChanges, columns ?? table.columns);
    const change = {
      number,
      kind,
      who: who?.trim() ?? null,
      key,
      undoes,
      rows: counts.added + counts.changed + counts.removed,
      counts,
      columns: columns ? { before: table.columns, after: columns } : null,
    };
    const whole = pieces.length <= 1;
    const [{ at }] = await transaction
      .insert(changes)
      .values({
        ...change,
        tableId: table.id,
        rowChanges: whole ? logged : null,
        pieces: whole ? 0 : pieces.length,
      })
      .returning({ at: changes.at });
    if (!whole) await writePieces(transaction, table.id, number, pieces);
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
    return { ...change, rowChanges, table: table.id, at: new Date(at).toISOString() };
  }

  /** Rows by their ids, those that are there. */
  async rowsOf(
    transaction: Transaction,
    tableId: number,
    ids: readonly number[],
  ): Promise<Map<number, typeof rows.$inferSelect>> {
    const found = new Map<number, typeof rows.$inferSelect>();
    for await (const some of bySize(transaction, tableId, ids))
      for (const row of await transaction.select().from(rows).where(areRows(tableId, some))) found.set(row.id, row);
    return found;
  }

  private async writeRows(
    transaction: Transaction,
    tableId: number,
    number: number,
    rowChanges: readonly LoggedRow[],
  ): Promise<void> {
    const removed = rowChanges.filter(({ after }) => after === null).map(({ id }) => id);
    if (removed.length > 0) await transaction.delete(rows).where(areRows(tableId, removed));
    const written = rowChanges.filter(({ after }) => after !== null);
    for (const some of cutBySize(written, ({ after }) => cellsSize(after))) {
      const json = JSON.stringify(
        some.map(({ id, after, said }) => ({
          id,
          cells: JSON.stringify(after),
          said: said?.after ? JSON.stringify(said.after) : null,
        })),
      );
      await this.database.checkRoom(2 * json.length);
      await transaction.execute(
        sql`insert into ${rows} (table_id, id, version, cells, said) select ${tableId}, id, ${number}, cells, said from jsonb_to_recordset(${json}::jsonb) as batch (id bigint, cells text, said text) on conflict (table_id, id) do update set cells = excluded.cells, version = excluded.version, said = excluded.said`,
      );
    }
  }

  /** Tells whoever follows the database that a table is not what it was; of a change once it is committed. */
  async tell(tableId: number, by: Pick<Transaction, 'execute'> = this.database.db, box?: BoxNews): Promise<void> {
    const told = { table: tableId, by: this.name, ...(box && { box }) };
    await by.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify(told)})`);
  }
}
