/** Puts a backup into an empty database: all of it, or nothing. What it says of itself is looked at before anything is kept. */
import { createHash } from 'node:crypto';
import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import { sql } from 'drizzle-orm';
import type { Transaction } from '../data/committing.js';
import type { Database } from '../data/database.js';
import { COUNTED, FORMAT, NoBackup, TABLES, VERSION, type End, type Header, type TableName } from './format.js';
import { SCHEMA } from './write.js';

/** Letters that are written at once. */
const LETTERS_AT_ONCE = 4 * 1024 * 1024;

/** A line of a backup: what follows it, a row, or the end. */
type Line = { readonly table: TableName } | { readonly row: string } | { readonly end: End };

const damaged = (why: string): NoBackup => new NoBackup(`The backup cannot be used: ${why}.`);

/** Reads a backup line by line, and checks it. @throws NoBackup where it is none, is damaged, or is not whole */
export async function* backupIn(file: Readable): AsyncGenerator<Header | Line> {
  const unzipped = file.pipe(createGunzip());
  file.on('error', (error) => unzipped.destroy(error));
  const digest = createHash('sha256');
  let lines = 0;
  let header: Header | undefined;
  let end: End | undefined;
  try {
    for await (const text of createInterface({ input: unzipped, crlfDelay: Infinity })) {
      if (end) throw damaged('something follows its end');
      const value = parsed(text);
      if (!header) yield (header = headerOf(value));
      else if (value['end'] === true) yield { end: (end = value as unknown as End) };
      else if (Object.keys(value).length === 1 && typeof value['table'] === 'string') {
        if (!(TABLES as readonly string[]).includes(value['table']))
          throw damaged(`it has a table “${value['table']}”`);
        yield { table: value['table'] as TableName };
      } else yield { row: text };
      if (!end) {
        digest.update(`${text}\n`);
        lines++;
      }
    }
  } catch (error) {
    if (error instanceof NoBackup) throw error;
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') throw error;
    throw damaged(header ? 'it is cut off or damaged' : 'it is no backup of Usual Needle');
  }
  if (!end) throw damaged(header ? 'it is cut off' : 'it is empty');
  if (end.lines !== lines || end.sha256 !== digest.digest('hex')) throw damaged('its digest is another one');
}

function parsed(text: string): Record<string, unknown> {
  const value: unknown = JSON.parse(text);
  if (typeof value !== 'object' || value === null || Array.isArray(value)) throw new Error('no object');
  return value as Record<string, unknown>;
}

function headerOf(value: Record<string, unknown>): Header {
  if (value['format'] !== FORMAT) throw damaged('it is no backup of Usual Needle');
  const header = value as unknown as Header;
  if (header.version > VERSION || header.schema > SCHEMA)
    throw new NoBackup('The backup is of a newer Usual Needle than this one. Restore it with that, or a newer one.');
  return header;
}

/** @returns the moment that the backup is of, and how many rows there are @throws NoBackup */
export async function restore({ db }: Database, file: Readable): Promise<{ at: string; rows: number }> {
  return db.transaction(async (transaction) => {
    await mustBeEmpty(transaction);
    let at = '';
    let rows = 0;
    let into: TableName | undefined;
    let some: string[] = [];
    let letters = 0;
    const put = async (): Promise<void> => {
      if (into && some.length > 0) await insert(transaction, into, some);
      [some, letters] = [[], 0];
    };
    for await (const line of backupIn(file)) {
      if ('format' in line) ({ at } = line);
      else if ('table' in line) {
        await put();
        into = line.table;
      } else if ('row' in line) {
        if (!into) throw damaged('a row is of no table');
        if (into === 'rows') rows++;
        some.push(line.row);
        letters += line.row.length;
        if (letters > LETTERS_AT_ONCE) await put();
      } else await put();
    }
    for (const name of COUNTED)
      await transaction.execute(
        sql`select setval(pg_get_serial_sequence(${name}, 'id'), coalesce((select max(id) from ${sql.identifier(name)}), 0) + 1, false)`,
      );
    return { at, rows };
  });
}

async function mustBeEmpty(transaction: Transaction): Promise<void> {
  for (const name of ['tables', 'people'] as const) {
    const { rows } = await transaction.execute(sql`select 1 from ${sql.identifier(name)} limit 1`);
    if (rows.length > 0) throw new NoBackup('There is something here already. A backup goes into an empty place only.');
  }
}

/** Columns that the backup does not know of have what they have in a new row. */
async function insert(transaction: Transaction, name: TableName, rows: readonly string[]): Promise<void> {
  const columns = sql.join(
    Object.keys(JSON.parse(rows[0]) as object).map((column) => sql.identifier(column)),
    sql`, `,
  );
  const table = sql.identifier(name);
  await transaction.execute(
    sql`insert into ${table} (${columns}) select ${columns} from json_populate_recordset(null::${table}, ${`[${rows.join(',')}]`}::json)`,
  );
}
