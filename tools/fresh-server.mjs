/** A server over a data folder of its own that is gone afterwards: `node tools/fresh-server.mjs PORT`. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ROOT } from './run.mjs';

const data = mkdtempSync(join(tmpdir(), 'usual-needle-e2e-'));
const server = spawn(
  process.execPath,
  [join(ROOT, 'packages/server/dist/main.js'), '--port', process.argv[2], '--data', data, '--name', 'needle.test'],
  {
    stdio: 'inherit',
  },
);
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill('SIGTERM'));
server.on('exit', (code) => {
  rmSync(data, { recursive: true, force: true });
  process.exit(code ?? 1);
});
