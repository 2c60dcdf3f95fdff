/** A server over a data folder of its own that is gone afterwards: what the browser tests and the screenshots look at. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ROOT } from './run.mjs';

/**
 * It is whole: what it brings in at its first start is there.
 * @param port, data of a server that was there before, whose data stayed
 * @param node the Node that it runs on @param options further ones of its command
 * @throws if it ends before that
 */
export async function freshServer({
  port = 0,
  data = mkdtempSync(join(tmpdir(), 'usual-needle-e2e-')),
  node = process.execPath,
  options = [],
} = {}) {
  const program = join(ROOT, 'packages/server/dist-bundle/main.js');
  // Nothing is compiled ahead of the first search: that takes the processor for some fifteen seconds, of which each of these has few.
  const settled = ['--port', String(port), '--data', data, '--name', 'needle.test', '--no-warm-up'];
  const server = spawn(node, [program, ...settled, ...options], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, LOG_LEVEL: process.env.LOG_LEVEL ?? 'warn' },
  });
  const ended = once(server, 'exit');
  let said = '';
  const address = await new Promise((found, fail) => {
    server.stdout.on('data', (text) => {
      said += text;
      const [, at] = /is at (http\S+)/.exec(said) ?? [];
      if (at) found(at);
    });
    ended.then(() => fail(new Error(`The server has ended. ${said}`)));
  });
  while ((await (await fetch(`${address}/api/health`)).json()).status !== 'ready')
    await new Promise((done) => setTimeout(done, 100));
  return {
    address,
    data,
    stop: async ({ keep = false } = {}) => {
      server.kill('SIGTERM');
      await ended;
      if (!keep) rmSync(data, { recursive: true, force: true });
    },
  };
}
