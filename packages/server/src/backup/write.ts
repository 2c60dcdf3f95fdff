/**
 * Backs up all that is kept, of one moment, while it goes on being changed. What is small is read in one transaction; the log is never
 * rewritten, and rows that are changed meanwhile are taken back by it (`data/rows-then.ts`). So nobody waits, however much there is.
 */
import { createHash } from 'node:crypto';
import { and, asc, eq, gt, sql } from 'drizzle-orm';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import type { Transaction } from '../data/committing.js';
import type { Database } from '../data/database.js';
import { loggedRows } from '../data/logged-rows.js';
import { takenBack } from '../data/rows-then.js';
import { changes } from '../data/schema.js';
import { MIGRATIONS } from '../folders.js';
import { FORMAT, TABLES, VERSION, type End, type Header, type TableName } from './format.js';

type Db = Database['db'];

/** Rows, and changes, read at a time, and bytes of them. */
const ROWS_AT_ONCE = 2_000;
const CHANGES_AT_ONCE = 20;
const BYTES_AT_ONCE = 8 * 1024 * 1024;

/** Tables that are read in one transaction. */
const SMALL = TABLES.filter((name) => !['changes', 'change_rows', 'rows'].includes(name));

/** A row of a table as it is kept, with what the last file said of it. */
interface KeptRow {
  readonly id: number;
  readonly version: number;
  readonly cells: string;
  readonly said: string | null;
}

/** A table, and the number of its last change at the moment of the backup. */
interface TableThen {
  readonly id: number;
  readonly change: number;
}

export const SCHEMA = readMigrationFiles({ migrationsFolder: MIGRATIONS }).length;

/** The lines of a backup, some at a time. */
export async function* backupLines(db: Db): AsyncGenerator<string> {
  const digest = createHash('sha256');
  let lines = 0;
  const told = (some: readonly string[]): string => {
    lines += some.length;
    const text = some.map((line) => `${line}\n`).join('');
    digest.update(text);
    return text;
  };
  const { at, small, tables } = await db.transaction((transaction) => readSmall(transaction), {
    isolationLevel: 'repeatable read',
  });
  yield told([JSON.stringify({ format: FORMAT, version: VERSION, schema: SCHEMA, at } satisfies Header)]);
  for (const [name, rows] of small) yield told([tableLine(name), ...rows]);
  yield told([tableLine('changes')]);
  for (const table of tables) for await (const some of changeLines(db, table)) yield told(some);
  yield told([tableLine('change_rows')]);
  for (const table of tables) for await (const some of pieceLines(db, table)) yield told(some);
  yield told([tableLine('rows')]);
  for (const table of tables)
    for await (const rows of rowsOf(db, table))
      yield told(rows.map((row) => JSON.stringify({ table_id: table.id, ...row })));
  yield `${JSON.stringify({ end: true, lines, sha256: digest.digest('hex') } satisfies End)}\n`;
}

function tableLine(name: TableName): string {
  return JSON.stringify({ table: name });
}

async function readSmall(
  transaction: Transaction,
): Promise<{ at: string; small: [TableName, string[]][]; tables: TableThen[] }> {
  const [{ at }] = (await transaction.execute<{ at: string }>(sql`select now() as at`)).rows;
  const small: [TableName, string[]][] = [];
  for (const name of SMALL) {
    // What is being brought in is no table yet.
    const where = name === 'tables' ? sql`where completed_at is not null` : sql``;
    const { rows } = await transaction.execute<{ row: string }>(
      sql`select row_to_json(t)::text as row from ${sql.identifier(name)} t ${where}`,
    );
    small.push([name, rows.map(({ row }) => row)]);
  }
  const { rows: tables } = await transaction.execute<{ id: number; change: number }>(
    sql`select id, last_change as change from tables where completed_at is not null order by id`,
  );
  return { at: new Date(at).toISOString(), small, tables };
}

async function* changeLines(db: Db, { id, change }: TableThen): AsyncGenerator<string[]> {
  for (let after = 0; ;) {
    const { rows } = await db.execute<{ number: number; row: string }>(
      sql`select number, row_to_json(c)::text as row from changes c where table_id = ${id} and number > ${after} and number <= ${change} order by number limit ${CHANGES_AT_ONCE}`,
    );
    if (rows.length === 0) return;
    yield rows.map(({ row }) => row);
    after = rows[rows.length - 1].number;
  }
}

async function* pieceLines(db: Db, { id, change }: TableThen): AsyncGenerator<string[]> {
  for (let [after, piece] = [0, -1]; ;) {
    const { rows } = await db.execute<{ number: number; piece: number; row: string }>(
      sql`select number, piece, row_to_json(p)::text as row from change_rows p where table_id = ${id} and (number, piece) > (${after}, ${piece}) and number <= ${change} order by number, piece limit 1`,
    );
    if (rows.length === 0) return;
    yield rows.map(({ row }) => row);
    ({ number: after, piece } = rows[0]);
  }
}

/** The rows of a table as they were after a change. */
function rowsOf(db: Db, { id, change }: TableThen): AsyncGenerator<KeptRow[]> {
  return takenBack(rowsNow(db, id), (known) => changesSince(db, id, known, change), change);
}

async function* rowsNow(db: Db, id: number): AsyncGenerator<KeptRow[]> {
  for (let after = 0; ;) {
    const { rows } = await db.execute<{ id: string; version: number; cells: string; said: string | null }>(
      sql`select id, version, cells, said from (select id, version, cells, said, sum(octet_length(cells)) over (order by id) - octet_length(cells) as before from rows where table_id = ${id} and id > ${after} order by id limit ${ROWS_AT_ONCE}) as next where before < ${BYTES_AT_ONCE} order by id`,
    );
    if (rows.length === 0) return;
    yield rows.map((row) => ({ ...row, id: Number(row.id) }));
    after = Number(rows[rows.length - 1].id);
  }
}

/** The changes after one, as far as rows are taken back by them. @param upTo the change that the rows are to be of */
async function* changesSince(db: Db, id: number, known: number, upTo: number) {
  for (let after = known; ;) {
    const [change] = await db
      .select()
      .from(changes)
      .where(and(eq(changes.tableId, id), gt(changes.number, after)))
      .orderBy(asc(changes.number))
      .limit(1);
    if (!change) return;
    const logged = (await loggedRows(db, change)) ?? [];
    const versions = await versionsOf(
      db,
      id,
      upTo,
      logged.map((row) => row.id),
    );
    const rows = logged.map(({ id: row, before, said }) => ({
      id: row,
      before: before && {
        ...{ id: row, version: versions.get(row) ?? 1, cells: JSON.stringify(before) },
        said: said?.before ? JSON.stringify(said.before) : null,
      },
    }));
    yield { number: change.number, rows };
    after = change.number;
  }
}

/** The last change of each row up to one; those that no change names have been there since the first. */
async function versionsOf(db: Db, id: number, upTo: number, ids: readonly number[]): Promise<Map<number, number>> {
  const some = sql.param(ids);
  const { rows } = await db.execute<{ id: string; number: number }>(
    sql`select id, max(number) as number from (
      select (r ->> 'id')::bigint as id, number from changes, jsonb_array_elements(row_changes) r where table_id = ${id} and number <= ${upTo} and jsonb_typeof(row_changes) = 'array'
      union all
      select (r ->> 'id')::bigint as id, number from change_rows, jsonb_array_elements(row_changes) r where table_id = ${id} and number <= ${upTo}
    ) as touched where id = any(${some}::bigint[]) group by id`,
  );
  return new Map(rows.map(({ id: row, number }) => [Number(row), number]));
}
