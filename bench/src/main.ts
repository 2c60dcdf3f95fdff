/** `npm run bench [-- engine|interface] [ROWS …]`: every figure beside its budget, and the baselines of the same run. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { benchEngine } from './engine.js';
import { benchInterface } from './interface.js';

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

await withServer(async (address) => {
  console.log('budget: p95 33 ms');
  await benchInterface(`${address}/box/1`, 'demo');
});
