/** `npm run bench [-- engine|interface] [ROWS …]`: every figure beside its budget, and the baselines of the same run. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { benchEngine } from './engine.js';
import { csvLines, foundItems } from '@usual-needle/demo';
import { benchInterface, benchScrolling } from './interface.js';

const SERVER = fileURLToPath(new URL('../../packages/server/dist/main.js', import.meta.url));

async function withServer(work: (address: string) => Promise<void>): Promise<void> {
  const data = await mkdtemp(join(tmpdir(), 'usual-needle-bench-'));
  const began = performance.now();
  const server = spawn(process.execPath, [SERVER, '--port', '0', '--data', data], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const [said] = (await once(server.stdout, 'data')) as [Buffer];
  console.log(`first start with the demo                      ${((performance.now() - began) / 1000).toFixed(1)} s`);
  try {
    await work(/http:\S+/.exec(said.toString())![0]);
  } finally {
    server.kill('SIGTERM');
    await once(server, 'exit');
    await rm(data, { recursive: true, force: true });
  }
}

const [what = 'all', ...sizes] = process.argv.slice(2);
if (what === 'all' || what === 'engine') {
  const asked = sizes.length > 0 ? sizes.map(Number) : [1_000, 100_000, 1_000_000];
  for (const size of asked) await benchEngine(size);
}
if (what === 'engine') process.exit(0);

/** A table of so many rows, brought in as anybody would. @returns its address */
async function manyRows(address: string, count: number): Promise<string> {
  const { columns, rows } = foundItems(count);
  const csv = [...csvLines(columns, rows)].join('');
  const began = performance.now();
  const response = await fetch(`${address}/api/tables?name=Many`, {
    method: 'POST',
    headers: { 'content-type': 'text/csv' },
    body: csv,
  });
  const { id } = (await response.json()) as { id: number };
  console.log(`${count.toLocaleString('en')} rows brought in, indexed                ${((performance.now() - began) / 1000).toFixed(1)} s`); // prettier-ignore
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
