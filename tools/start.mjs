/** `npm start`: installs and builds what is needed, then starts the server with the options given after `--`. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensureInstalled, ROOT } from './run.mjs';

await ensureInstalled();
await ensureBuilt();
const server = spawn(process.execPath, [join(ROOT, 'packages/server/dist-bundle/main.js'), ...process.argv.slice(2)], {
  stdio: 'inherit',
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code, signal) => process.exit(signal ? 1 : (code ?? 1)));
