/** A server of its own over a folder, as the command finds one. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';

export const COMMAND = fileURLToPath(new URL('../bin/usual-needle.js', import.meta.url));
const SERVER = fileURLToPath(new URL('../../server/dist-bundle/main.js', import.meta.url));

export interface Serving {
  readonly address: string;
  end(): Promise<void>;
}

export async function serve(data: string, port = '0'): Promise<Serving> {
  const options = ['--port', port, '--data', data, '--no-demo', '--no-warm-up'];
  const server: ChildProcess = spawn(process.execPath, [SERVER, ...options], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  const [said] = (await once(server.stdout!, 'data')) as [Buffer];
  const address = /http:\S+/.exec(said.toString())![0];
  // The address is there before all of it is ready.
  for (let status = ''; status !== 'ready'; await new Promise((done) => setTimeout(done, 100)))
    ({ status } = (await (await fetch(`${address}/api/health`)).json()) as { status: string });
  return {
    address,
    end: async () => {
      server.kill('SIGTERM');
      await once(server, 'exit');
    },
  };
}
