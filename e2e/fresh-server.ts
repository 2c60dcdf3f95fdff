/** The real thing: a server over a data folder of its own that is gone afterwards. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';

const SCRIPT = fileURLToPath(new URL('../tools/fresh-server.mjs', import.meta.url));

/** It is whole: what it brings in at its first start is there. @throws if the server ends before it has said where it is */
export async function freshServer(): Promise<{ address: string; stop: () => Promise<void> }> {
  const child = spawn(process.execPath, [SCRIPT, '0'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const ended = once(child, 'exit');
  let said = '';
  const address = await new Promise<string>((found, fail) => {
    child.stdout.on('data', (data: Buffer) => {
      said += data.toString();
      const [, at] = /is at (http\S+)/.exec(said) ?? [];
      if (at) found(at);
    });
    void ended.then(() => fail(new Error(`The server has ended. ${said}`)));
  });
  for (let ready = false; !ready;) {
    const health = await fetch(`${address}/api/health`);
    ready = ((await health.json()) as { status: string }).status === 'ready';
    if (!ready) await new Promise((done) => setTimeout(done, 100));
  }
  return {
    address,
    stop: async () => {
      child.kill('SIGTERM');
      await ended;
    },
  };
}
