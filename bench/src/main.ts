/** `npm run bench [-- engine|edits|interface|bring-in|everywhere|load|rough|soak|start|scale|take-out] [ROWS …]`: every figure beside its budget, and the baselines of the same run. */
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { benchBringIn, PACKED_MS } from './bring-in.js';
import { benchEdits } from './edits.js';
import { benchEngine } from './engine.js';
import { csvLines, foundItems } from '@usual-needle/demo';
import { AFRESH, benchEverywhere, benchInterface, benchScrolling } from './interface.js';
import { benchLoad } from './load.js';
import { benchRough } from './rough.js';
import { benchSoak } from './soak.js';
import { benchScale, benchSize } from './scale.js';
import { started, stopped } from './server.js';
import { benchStart } from './start.js';
import { benchTakeOut } from './take-out.js';

async function withServer(work: (address: string) => Promise<void>): Promise<void> {
  const data = await mkdtemp(join(tmpdir(), 'usual-needle-bench-'));
  const began = performance.now();
  const { server, address } = await started(data);
  console.log(`first start with the demo                      ${((performance.now() - began) / 1000).toFixed(1)} s`);
  try {
    await work(address);
  } finally {
    await stopped(server);
    await rm(data, { recursive: true, force: true });
  }
}

const [what = 'all', ...sizes] = process.argv.slice(2);
if (what === 'all' || what === 'engine') {
  const asked = sizes.length > 0 ? sizes.map(Number) : [1_000, 100_000, 1_000_000];
  for (const size of asked) await benchEngine(size);
}
if (what === 'bring-in') await benchBringIn(sizes.length > 0 ? Number(sizes[0]) : 1_000_000);
if (what === 'edits') benchEdits(sizes.length > 0 ? Number(sizes[0]) : 1_000_000);
if (what === 'engine' || what === 'edits' || what === 'bring-in') process.exit(0);

if (what === 'load') {
  await withServer(async (address) => {
    const [rows = 100_000, seconds = 60, ...readers] = sizes.map(Number);
    const table = await manyRows(address, rows);
    await new Promise((done) => setTimeout(done, PACKED_MS));
    await benchLoad(address, Number(table.split('/').at(-1)), readers.length > 0 ? readers : [50], seconds, [
      ...foundItems(rows).rows,
    ]);
  });
  process.exit(0);
}

if (what === 'rough') {
  await withServer(async (address) => {
    const [rows = 100_000, seconds = 20] = sizes.map(Number);
    const table = await manyRows(address, rows);
    await benchRough(address, Number(table.split('/').at(-1)), seconds);
  });
  process.exit(0);
}

if (what === 'take-out') {
  await withServer(async (address) => {
    const [rows = 1_000_000] = sizes.map(Number);
    const table = await manyRows(address, rows);
    await benchTakeOut(address, Number(table.split('/').at(-1)), rows);
  });
  process.exit(0);
}

if (what === 'soak') {
  await withServer(async (address) => {
    const [rows = 30_000, minutes = 30] = sizes.map(Number);
    const table = await manyRows(address, rows);
    await benchSoak(address, Number(table.split('/').at(-1)), minutes);
  });
  process.exit(0);
}

if (what === 'size') {
  await benchSize(Number(sizes[0]));
  process.exit(0);
}

if (what === 'scale') {
  await benchScale(sizes.length > 0 ? sizes.map(Number) : [10_000, 100_000, 1_000_000, 10_000_000]);
  process.exit(0);
}

if (what === 'start') {
  for (const count of sizes.length > 0 ? sizes.map(Number) : [100_000, 1_000_000]) {
    const data = await mkdtemp(join(tmpdir(), 'usual-needle-bench-'));
    await benchStart(data, count, async (address) => Number((await manyRows(address, count)).split('/').at(-1)));
    await rm(data, { recursive: true, force: true });
  }
  process.exit(0);
}

if (what === 'everywhere') {
  await withServer(async (address) => {
    const [tables = 20, rows = 50_000] = sizes.map(Number);
    for (let i = 1; i <= tables; i++) await manyRows(address, rows, `Table ${i}`);
    const name = `${tables} tables of ${rows.toLocaleString('en')} rows and the demo`;
    await benchEverywhere(address, `${name}, while they are packed`, AFRESH);
    await new Promise((done) => setTimeout(done, PACKED_MS));
    await benchEverywhere(address, name);
  });
  process.exit(0);
}

/** A table of so many rows, brought in as anybody would. @returns its address */
async function manyRows(address: string, count: number, name = 'Many'): Promise<string> {
  const { columns, rows } = foundItems(count);
  const csv = [...csvLines(columns, rows)].join('');
  const began = performance.now();
  const response = await fetch(`${address}/api/tables?name=${name}`, {
    method: 'POST',
    headers: { 'content-type': 'text/csv' },
    body: csv,
  });
  const { id } = (await response.json()) as { id: number };
  console.log(
    `${count.toLocaleString('en')} rows brought in, indexed                ${((performance.now() - began) / 1000).toFixed(1)} s`,
  );
  return `${address}/table/${id}`;
}

await withServer(async (address) => {
  console.log('budget: p95 33 ms at the demo, 50 ms at 1,000,000 rows');
  await benchInterface(`${address}/box/1`, 'demo', true);
  const [size = 1_000_000] = sizes.map(Number);
  const many = await manyRows(address, size);
  const name = `${size.toLocaleString('en')} rows`;
  await benchInterface(many, name, false);
  await benchScrolling(many, name);
});
