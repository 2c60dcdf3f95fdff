/**
 * Measures from a start of the server to the first answer of a large table: with the pack that the last run left, and without one. Beside
 * it, what a plain `includes` over the same rows takes on this machine now.
 */
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { foundItems } from '@usual-needle/demo';
import { started, stopped } from './server.js';
import { existsSync, statSync } from 'node:fs';

const TRY_MS = 20;
const PACKED_MS = 300_000;

/** Asks until it is answered. @returns milliseconds since `began` */
export async function answered(address: string, table: number, rows: number, began: number): Promise<number> {
  const body = JSON.stringify({
    question: { threaded: ['Description', 'Marks', 'Finder’s note'], strands: [{ verb: 'find', text: 'umbr' }] },
    limit: 60,
  });
  for (;;) {
    const response = await fetch(`${address}/api/tables/${table}/search`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body,
    });
    const answer = (await response.json()) as { total?: number; matched?: number };
    if (response.ok && answer.total === rows && answer.matched! > 0) return performance.now() - began;
    await new Promise((done) => setTimeout(done, TRY_MS));
  }
}

async function start(data: string, table: number, rows: number, words: string): Promise<void> {
  const began = performance.now();
  const { server, address } = await started(data, ['--no-demo']);
  const listened = performance.now() - began;
  const first = await answered(address, table, rows, began);
  const again = performance.now();
  await answered(address, table, rows, again);
  console.log(
    `${words.padEnd(46)} ${(first / 1000).toFixed(2)} s to the first answer, ${(listened / 1000).toFixed(2)} s to listening`,
  );
  await stopped(server);
}

/** @param bringIn brings so many rows in, and says the table's number */
export async function benchStart(
  data: string,
  count: number,
  bringIn: (address: string) => Promise<number>,
): Promise<void> {
  const first = await started(data, ['--no-demo']);
  const table = await bringIn(first.address);
  const pack = join(data, 'packs', `table-${table}.pack`);
  const asked = performance.now();
  while (!existsSync(pack) && performance.now() - asked < PACKED_MS) await new Promise((done) => setTimeout(done, 100));
  const size = existsSync(pack) ? `${(statSync(pack).size / 1e6).toFixed(0)} MB` : 'none';
  console.log(
    `pack                                           ${size}, ${((performance.now() - asked) / 1000).toFixed(1)} s after the bring-in`,
  );
  await stopped(first.server);
  for (let i = 0; i < 3; i++)
    await start(data, table, count, `start of ${count.toLocaleString('en')} rows, with the pack`);
  const texts = [...foundItems(count).rows].map((row) => row.join('\n').toLowerCase());
  const began = performance.now();
  let found = 0;
  for (const text of texts) if (text.includes('umbr')) found++;
  console.log(
    `includes over the same rows                    ${(performance.now() - began).toFixed(0)} ms (${found} rows)`,
  );
  await rm(join(data, 'packs'), { recursive: true });
  await start(data, table, count, `start of ${count.toLocaleString('en')} rows, without it`);
}
