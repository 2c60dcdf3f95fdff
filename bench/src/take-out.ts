/**
 * Rows taken out by HTTP while other readers go on typing: how long a large table takes in each form, what that does to the readers and to
 * the server's memory, and what an answer costs that has not changed. Beside it the same rows through the database's own COPY.
 */
import { createWriteStream, statSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { csvLines, foundItems } from '@usual-needle/demo';
import pg from 'pg';
import { from as copyFrom, to as copyTo } from 'pg-copy-streams';
import { postgres } from './bring-in.js';
import { figures, line } from './figures.js';
import { Reader, resident } from './load.js';
import { JSON_TYPE, pause } from './server.js';

/** Readers who type meanwhile, and between two keys of each, in milliseconds. */
const READERS = 8;
const KEY_MS = 250;
/** Readers type for so long beside nothing, in milliseconds. */
const ALONE_MS = 10_000;
/** Answers that have not changed. */
const UNCHANGED = 500;
/** Requests that come before them, until what answers has been compiled. */
const WARM = 3_000;

let forms = 0;
const told = (name: string, value: string): void => console.log(`${name.padEnd(46)} ${value}`);

async function taken(address: string, table: number, form: string, file: string): Promise<number> {
  const began = performance.now();
  const response = await fetch(`${address}/api/tables/${table}/take-out`, {
    method: 'POST',
    headers: { ...JSON_TYPE, 'accept-encoding': 'identity' },
    body: JSON.stringify({ form, question: { threaded: [] } }),
  });
  if (!response.ok) throw new Error(await response.text());
  await pipeline(Readable.fromWeb(response.body as never), createWriteStream(file));
  return performance.now() - began;
}

/** The database's own way, from a table of text columns. @returns milliseconds */
async function byCopy(url: string, count: number, file: string): Promise<number> {
  const { columns, rows } = foundItems(count);
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    await client.query(`create table yardstick (${columns.map((_, i) => `c${i} text`).join(', ')})`);
    const into = client.query(copyFrom('copy yardstick from stdin with (format csv, header)'));
    await pipeline(Readable.from(csvLines(columns, rows)), into);
    const began = performance.now();
    await pipeline(client.query(copyTo('copy yardstick to stdout with (format csv, header)')), createWriteStream(file));
    return performance.now() - began;
  } finally {
    await client.query('drop table yardstick').catch(() => undefined);
    await client.end();
  }
}

/** Readers of their own numbers, who type for as long as something else takes. */
async function typing(
  address: string,
  table: number,
  first: number,
  name: string,
  work: () => Promise<unknown>,
): Promise<void> {
  const readers = Array.from({ length: READERS }, (_, i) => new Reader(address, table, first + i));
  await Promise.all(readers.map((reader) => reader.open()));
  const keys = readers.map((reader) => setInterval(() => reader.key(), KEY_MS));
  await work();
  for (const timer of keys) clearInterval(timer);
  console.log(line(name, figures(readers.flatMap(({ times }) => times))));
  for (const reader of readers) reader.end();
}

/** Takes a table out while readers type. */
async function form(address: string, table: number, what: string, file: string, hold: string): Promise<number> {
  const alone = await taken(address, table, what, file);
  const size = (statSync(file).size / 1e6).toFixed(0);
  told(`${what}, ${size} MB, beside nobody`, `${(alone / 1000).toFixed(1)} s  (to hold: ${hold})`);
  const before = await resident();
  let most = before;
  const watch = setInterval(() => void resident().then((now) => (most = Math.max(most, now))), 200);
  let beside = 0;
  const name = `${what}: keys meanwhile (to hold: p95 60 ms)`;
  await typing(address, table, 100 * ++forms, name, async () => (beside = await taken(address, table, what, file)));
  clearInterval(watch);
  told(`${what}, beside ${READERS} who type`, `${(beside / 1000).toFixed(1)} s`);
  told(`${what}: memory above what it was before`, `${(most - before).toFixed(0)} MB  (to hold: 150 MB)`);
  return alone;
}

/** An answer by an address that has not changed: what the server says that it took. */
async function unchanged(address: string, table: number): Promise<void> {
  const box = { format: 'usual-needle box', version: 1, name: 'All', threaded: ['Description'] };
  const made = await fetch(`${address}/api/tables/${table}/boxes`, {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify({ box }),
  });
  const { id } = (await made.json()) as { id: number };
  const first = await fetch(`${address}/b/${id}.csv?q=umbrella&limit=10`);
  await first.text();
  const tag = first.headers.get('etag')!;
  const times: number[] = [];
  // The first ones are of a server that was just started.
  for (let i = -WARM; i < UNCHANGED; i++) {
    const response = await fetch(`${address}/b/${id}.csv?q=umbrella&limit=10`, { headers: { 'if-none-match': tag } });
    if (response.status !== 304) throw new Error(`${response.status} and not 304`);
    if (i >= 0) times.push(Number(/dur=([\d.]+)/.exec(response.headers.get('server-timing')!)![1]));
  }
  console.log(`${line('unchanged (304): time in the server', figures(times))}  (to hold: 1 ms)`);
}

export async function benchTakeOut(address: string, table: number, count: number): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'usual-needle-bench-'));
  const file = join(folder, 'out');
  try {
    console.log(`${count.toLocaleString('en')} x 12 rows`);
    await typing(address, table, 0, 'keys of eight who type, beside nothing', () => pause(ALONE_MS));
    const csv = await form(address, table, 'csv', file, '10 s on an idle machine, 3x COPY TO');
    await form(address, table, 'xlsx', file, '60 s');
    await form(address, table, 'ndjson', file, 'no budget');
    await unchanged(address, table);
    const database = postgres(folder);
    if (!database) return told('yardstick: COPY TO', 'there is no PostgreSQL here');
    try {
      const copied = await byCopy(database.url, count, file);
      told(
        'yardstick: COPY TO of the same rows',
        `${(copied / 1000).toFixed(1)} s: csv takes ${(csv / copied).toFixed(1)}x`,
      );
    } finally {
      database.end();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
