/**
 * A large file brought in by HTTP as anybody would, while another reader goes on searching: how long it takes, what it does to
 * the reader, and how soon it is there again after a start. Beside it the same file through the database's own COPY.
 */
import { execFileSync, type ChildProcess } from 'node:child_process';
import { createReadStream, createWriteStream, readFileSync, statSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { csvLines, foundItems } from '@usual-needle/demo';
import pg from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { figures, line } from './figures.js';
import { started, stopped } from './server.js';

/** Rows of the table that is searched meanwhile, and between two keystrokes of its reader, in milliseconds. */
const SEARCHED = 100_000;
const KEY_MS = 250;
const TYPED = ['u', 'um', 'umb', 'umbr', 'umbre', 'umbrella', 'umbrella w', 'umbrella wood'];
/** Gives what nobody has asked before, so that no answer is another reader's: a word as it is typed, and a part of an item number. */
const typed = (i: number): string => `${TYPED[i % TYPED.length]} ${(i * 7_919) % 1_000}`;
const CSV = { 'content-type': 'text/csv' };

const seconds = (since: number): string => `${((performance.now() - since) / 1000).toFixed(1)} s`;
const told = (name: string, value: string): void => console.log(`${name.padEnd(46)} ${value}`);

async function sent(address: string, name: string, file: string): Promise<number> {
  const body = Readable.toWeb(createReadStream(file)) as unknown as NonNullable<RequestInit['body']>;
  const init = { method: 'POST', headers: CSV, body, duplex: 'half' } as RequestInit;
  const response = await fetch(`${address}/api/tables?name=${name}`, init);
  if (response.status !== 201) throw new Error(await response.text());
  return ((await response.json()) as { id: number }).id;
}

function resident(server: ChildProcess): number {
  return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))![1]) / 1024;
}

async function search(address: string, table: number, text: string): Promise<number> {
  const began = performance.now();
  const question = {
    threaded: ['Item no.', 'Description', 'Marks', 'Finder’s note'],
    strands: [{ verb: 'find', text }],
  };
  const response = await fetch(`${address}/api/tables/${table}/search`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ question, limit: 60 }),
  });
  if (!response.ok) throw new Error(await response.text());
  await response.arrayBuffer();
  return performance.now() - began;
}

async function written(rows: number, file: string): Promise<void> {
  const { columns, rows: items } = foundItems(rows);
  await pipeline(Readable.from(csvLines(columns, items)), createWriteStream(file));
}

/** The database's own way to take a file in, into a table of text columns, without what makes it searchable. */
async function byCopy(url: string, file: string, columns: readonly string[]): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const names = columns.map((_, i) => `c${i} text`).join(', ');
  await client.query(`create table yardstick (${names})`);
  const began = performance.now();
  await pipeline(createReadStream(file), client.query(copyFrom('copy yardstick from stdin with (format csv, header)')));
  told('yardstick: COPY of the same file, not searchable', seconds(began));
  await client.query('drop table yardstick');
  await client.end();
}

/** Time to pack what was brought in, in milliseconds. */
export const PACKED_MS = 15_000;

async function onOne(name: string, folder: string, databaseUrl?: string): Promise<void> {
  const [many, few, data] = [join(folder, 'many.csv'), join(folder, 'few.csv'), join(folder, 'data')];
  let { server, address } = await started(data, ['--no-demo'], databaseUrl ?? '');
  try {
    const table = await sent(address, 'Searched', few);
    const before = resident(server);
    const times: number[] = [];
    let going = true;
    const reader = (async () => {
      for (let i = 0; going; i++) {
        times.push(await search(address, table, typed(i)));
        await new Promise((done) => setTimeout(done, KEY_MS));
      }
    })();
    let most = before;
    const watch = setInterval(() => (most = Math.max(most, resident(server))), 500);
    const began = performance.now();
    const id = await sent(address, 'Many', many);
    told(`${name}: brought in and searchable`, `${seconds(began)}  (to hold: 60 s)`);
    going = false;
    await reader;
    clearInterval(watch);
    console.log(`${line(`${name}: a reader meanwhile`, figures(times))}  (to hold: p95 100 ms)`);
    told(`${name}: memory above the finished table`, `${(most - resident(server)).toFixed(0)} MB  (to hold: 300 MB)`);
    // Until it is packed a start has to build it, which takes as long as bringing in.
    await new Promise((done) => setTimeout(done, PACKED_MS));
    await stopped(server);
    const again = performance.now();
    ({ server, address } = await started(data, ['--no-demo'], databaseUrl ?? ''));
    for (;;) {
      const answered = await search(address, id, 'umbrella wood').then(
        () => true,
        () => false,
      );
      if (answered) break;
      await new Promise((done) => setTimeout(done, 100));
    }
    told(
      `${name}: first answer after starting again, ${PACKED_MS / 1_000} s later`,
      `${seconds(again)}  (to hold: 15 s)`,
    );
  } finally {
    await stopped(server);
  }
}

/** A PostgreSQL of its own for the while, if one is installed. @returns how to end it */
export function postgres(folder: string): { url: string; end: () => void } | undefined {
  try {
    const found = execFileSync('sh', ['-c', 'ls -d /usr/lib/postgresql/*/bin | tail -1'], { encoding: 'utf8' }).trim();
    if (found === '') return undefined;
    const data = join(folder, 'postgres');
    const as = (command: string): void =>
      void execFileSync('su', ['postgres', '-s', '/bin/sh', '-c', command], { stdio: 'ignore' });
    execFileSync('sh', ['-c', `mkdir -p ${data} && chown postgres ${data} && chmod 755 ${folder}`]);
    as(`${found}/initdb -D ${data} -A trust`);
    as(`${found}/pg_ctl -D ${data} -o '-p 54329 -k ${data}' -w -l ${data}/log start`);
    return {
      url: 'postgres://postgres@127.0.0.1:54329/postgres',
      end: () => as(`${found}/pg_ctl -D ${data} -m fast stop`),
    };
  } catch {
    return undefined;
  }
}

export async function benchBringIn(rows: number): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'usual-needle-bench-'));
  try {
    await written(rows, join(folder, 'many.csv'));
    await written(SEARCHED, join(folder, 'few.csv'));
    const size = (statSync(join(folder, 'many.csv')).size / 1e6).toFixed(0);
    console.log(`${rows.toLocaleString('en')} x 12 rows, ${size} MB of CSV`);
    await onOne('embedded', folder);
    const real = postgres(folder);
    if (!real) return told('PostgreSQL', 'not installed here, so not measured');
    try {
      await onOne('PostgreSQL', folder, real.url);
      await byCopy(real.url, join(folder, 'many.csv'), foundItems(1).columns);
    } finally {
      real.end();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
