/** Rows of a source from a query on a PostgreSQL that whoever runs the server has named: read only, by a cursor, in limited time. */
import { LIMITS } from '@usual-needle/contract';
import pg from 'pg';
import Cursor from 'pg-cursor';
import { SourceFailed } from './failures.js';
import type { Fetched } from './from-address.js';

const CONNECT_MS = 10_000;
const STATEMENT_MS = 10 * 60_000;
const AT_ONCE = 1_000;

/** A cell of CSV (RFC 4180). */
function cellOf(text: string | null): string {
  if (text === null) return '';
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** A line of cells. One blank cell alone is quoted, so that it is no blank line. */
function lineOf(cells: readonly (string | null)[]): string {
  const line = cells.map(cellOf).join(',');
  return line === '' ? '""\r\n' : `${line}\r\n`;
}

/** Says in one line why a database did not do a query; what it says of the connection itself may hold secrets, and is not said. */
function reasonOf(error: unknown, connection: string): SourceFailed {
  if (error instanceof SourceFailed) return error;
  const { code = '', message } = error as NodeJS.ErrnoException;
  // A code of five signs is the database's own (PostgreSQL, Appendix A): class 28 is about signing in, 3D about the name of the database.
  const isAnswer = /^[0-9A-Z]{5}$/.test(code) && !code.startsWith('28') && !code.startsWith('3D');
  if (!isAnswer) return new SourceFailed(`The ${connection} database cannot be reached.`);
  return new SourceFailed(`The ${connection} database does not answer the query: ${message.split('\n')[0]}.`);
}

/** @param url of the database, with its password @throws SourceFailed */
export async function fromQuery(connection: string, url: string, query: string): Promise<Fetched> {
  const client = new pg.Client({
    connectionString: url,
    connectionTimeoutMillis: CONNECT_MS,
    statement_timeout: STATEMENT_MS,
    application_name: 'Usual Needle',
    // Cells are kept as the database writes them.
    types: { getTypeParser: () => (text: string) => text },
  });
  // It is heard of where it is read.
  client.on('error', () => undefined);
  try {
    await client.connect();
    await client.query('begin transaction read only');
    const cursor = client.query(new Cursor<(string | null)[]>(query.replace(/[;\s]+$/, ''), [], { rowMode: 'array' }));
    const first = await read(cursor);
    if (first.names.length === 0) throw new SourceFailed('The query gives no columns.');
    return {
      bytes: linesOf(cursor, first, connection),
      hints: { type: 'text/csv' },
      done: () => ended(client),
    };
  } catch (error) {
    await ended(client);
    throw reasonOf(error, connection);
  }
}

interface Some {
  readonly rows: readonly (readonly (string | null)[])[];
  readonly names: readonly string[];
}

function read(cursor: Cursor<(string | null)[]>): Promise<Some> {
  return new Promise((done, fail) =>
    cursor.read(AT_ONCE, (error: Error | undefined, rows, result) =>
      error ? fail(error) : done({ rows, names: (result?.fields ?? []).map(({ name }) => name) }),
    ),
  );
}

async function* linesOf(
  cursor: Cursor<(string | null)[]>,
  first: Some,
  connection: string,
): AsyncGenerator<Uint8Array> {
  let size = 0;
  try {
    for (let [some, head] = [first, lineOf(first.names)]; head !== '' || some.rows.length > 0; head = '') {
      const bytes = Buffer.from(head + some.rows.map(lineOf).join(''), 'utf8');
      size += bytes.length;
      if (size > LIMITS.file)
        throw new SourceFailed(`It gives more than ${LIMITS.file / 1024 / 1024} MB, which is all that is taken.`);
      yield bytes;
      if (some.rows.length < AT_ONCE) return;
      some = await read(cursor);
    }
  } catch (error) {
    throw reasonOf(error, connection);
  }
}

async function ended(client: pg.Client): Promise<void> {
  await client.end().catch(() => undefined);
}
