/**
 * Mixed work for half an hour: readers who type, edits, tables that come and go, sheets that open and close, files that are refused.
 * Memory, open files and temporary files are told every minute: they are to be flat.
 */
import { readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { figures, line } from './figures.js';
import { listener, Reader, resident } from './load.js';
import { JSON_TYPE, pause, serverProcess } from './server.js';
import { pageSoak } from './page-soak.js';

const READERS = 8;
function openFiles(): number {
  return readdirSync(`/proc/${serverProcess()}/fd`).length;
}

function temporaryFiles(): number {
  return readdirSync(tmpdir()).filter((name) => !name.startsWith('usual-needle-bench-')).length;
}

/** Does a round of everything but typing. */
async function round(address: string, table: number, number: number): Promise<void> {
  const rows = Array.from({ length: 2_000 }, (_, i) => `${i},thing ${i * number}`).join('\n');
  const made = await fetch(`${address}/api/tables?name=Soak${number}`, {
    method: 'POST',
    headers: { 'content-type': 'text/csv' },
    body: `No,Thing\n${rows}\n`,
  });
  const { id } = (await made.json()) as { id: number };
  await fetch(`${address}/api/tables/${id}/rows?key=No`, {
    method: 'PUT',
    headers: { 'content-type': 'text/csv' },
    body: `No,Thing\n${rows.replaceAll('thing 1', 'other 1')}\n`,
  }).then((reply) => reply.text());
  await fetch(`${address}/api/tables`, {
    method: 'POST',
    headers: { 'content-type': 'text/csv' },
    body: '\0\0\0',
  }).then((reply) => reply.text());
  for (let i = 0; i < 20; i++)
    await fetch(`${address}/api/tables/${table}/changes`, {
      method: 'POST',
      headers: JSON_TYPE,
      body: JSON.stringify({
        key: `soak-${number}-${i}-${Date.now()}`,
        kind: 'edited',
        columns: ['Description'],
        changed: [{ id: 1 + ((number * 97 + i) % 20_000), was: [null], now: [`soaked ${number % 50}`] }],
      }),
    }).then((reply) => reply.text());
  const abort = new AbortController();
  for (let i = 0; i < 10; i++) void listener(address, table, abort.signal, () => undefined);
  await pause(300);
  abort.abort();
  await fetch(`${address}/api/tables/${id}`, { method: 'DELETE' }).then((reply) => reply.text());
}

export async function benchSoak(address: string, table: number, minutes: number): Promise<void> {
  console.log(`\n== soak: ${READERS} readers and everything else, ${minutes} minutes`);
  const readers = Array.from({ length: READERS }, (_, i) => new Reader(address, table, i));
  await Promise.all(readers.map((reader) => reader.open()));
  const keys = setInterval(() => readers.forEach((reader) => reader.key()), 250);
  // What goes wrong there is told at the end; the server goes on being soaked.
  const page = pageSoak(address, table, minutes).catch((error: unknown) => console.log(`the page: ${String(error)}`));
  let rounds = 0;
  for (let minute = 1; minute <= minutes; minute++) {
    const until = performance.now() + 60_000;
    while (performance.now() < until) {
      await round(address, table, ++rounds);
      await pause(1_000);
    }
    const times = readers.flatMap((reader) => reader.times.splice(0));
    console.log(
      `${line(`minute ${minute}, ${rounds} rounds`, figures(times))}  ${(await resident()).toFixed(0)} MB, ${openFiles()} files open, ${temporaryFiles()} temporary`,
    );
  }
  clearInterval(keys);
  for (const reader of readers) reader.end();
  await page;
}
