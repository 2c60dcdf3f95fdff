/** `usual-needle bring-in`: a file to a server, as a new table, or as newer rows of one that is there. */
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { Readable } from 'node:stream';
import type { Refresh, ShelfContent, TableSummary } from '@usual-needle/contract';
import { tableName } from '@usual-needle/formats';
import { UsageProblem } from './options.js';
import { Server, type ServerOptions } from './server-side.js';

export interface BringInOptions extends ServerOptions {
  readonly name?: string;
  /** Name or number of a table to refresh. */
  readonly refresh?: string;
  readonly key: readonly string[];
  readonly gone?: 'keep' | 'remove';
  readonly clashes?: 'ours' | 'theirs' | 'refuse';
  readonly unclear?: 'refuse' | 'first' | 'leave';
  readonly removed?: 'stay' | 'back';
  readonly preview?: boolean;
}

const TYPES: Readonly<Record<string, string>> = {
  csv: 'text/csv',
  tsv: 'text/tab-separated-values',
  json: 'application/json',
  ndjson: 'application/x-ndjson',
};

/** The media type that a file's name tells; a file whose name does not tell is found out by its bytes. */
function typeOf(file: string): string {
  return TYPES[/\.(\w+)$/.exec(file)?.[1].toLowerCase() ?? ''] ?? 'application/octet-stream';
}

async function tableNamed(server: Server, named: string): Promise<TableSummary> {
  const { tables } = await server.asked<ShelfContent>(server.at('/api/tables'));
  const found = tables.filter(({ id, name }) => name === named || String(id) === named);
  if (found.length === 1) return found[0];
  throw new UsageProblem(
    found.length === 0 ? `There is no table “${named}”.` : `Several tables are named “${named}”; say its number.`,
  );
}

/** @returns the exit code */
export async function bringIn(file: string, options: BringInOptions): Promise<number> {
  const server = new Server(options);
  const isFile =
    file !== '-' &&
    (await stat(file).then(
      (found) => found.isFile(),
      () => false,
    ));
  if (file !== '-' && !isFile) throw new UsageProblem(`${file} cannot be read: there is no such file.`);
  const body = Readable.toWeb(file === '-' ? process.stdin : createReadStream(file)) as unknown as ReadableStream;
  const init = { headers: { 'content-type': typeOf(file) }, body, duplex: 'half' } as RequestInit;
  if (options.refresh === undefined) {
    const address = server.at('/api/tables');
    address.searchParams.set('name', options.name ?? tableName(basename(file), 'Table'));
    const table = await server.asked<TableSummary>(address, { method: 'POST', ...init });
    console.log(
      `${table.name}: ${table.rows} rows, ${table.columns.length} columns; ${server.at(`/table/${table.id}`).href}`,
    );
    return 0;
  }
  const table = await tableNamed(server, options.refresh);
  const address = server.at(`/api/tables/${table.id}/rows`);
  for (const key of options.key) address.searchParams.append('key', key);
  if (options.gone) address.searchParams.set('gone', options.gone);
  if (options.clashes) address.searchParams.set('clashes', options.clashes);
  if (options.unclear) address.searchParams.set('unclear', options.unclear);
  if (options.removed) address.searchParams.set('removed', options.removed);
  if (options.preview) address.searchParams.set('preview', 'true');
  const plan = await server.asked<Refresh>(address, { method: 'PUT', ...init });
  const { added, changed, gone, unchanged, change, mended, removed, clashing, unclear } = plan;
  const fate = options.gone === 'remove' ? 'removed' : 'kept';
  const done = options.preview ? 'would be' : `change ${change}`;
  console.log(
    `${table.name}, ${done}: ${added} added, ${changed} changed, ${gone} gone and ${fate}, ${unchanged} unchanged`,
  );
  const cells = (count: number): string => `${count} ${count === 1 ? 'cell' : 'cells'}`;
  if (mended > 0) console.log(`${cells(mended)} left as mended here`);
  if (removed > 0)
    console.log(
      `${removed} ${removed === 1 ? 'row' : 'rows'} removed here ${options.removed === 'back' ? 'brought back' : 'left out'}`,
    );
  if (clashing > 0)
    console.log(
      `${cells(clashing)} changed on both sides, ${options.clashes === 'theirs' ? 'theirs taken' : 'ours kept'}`,
    );
  const odd = unclear.file + unclear.table;
  if (odd > 0)
    console.log(`${odd} rows whose key is blank or stands twice (${unclear.file} in the file, ${unclear.table} here)`);
  return 0;
}
