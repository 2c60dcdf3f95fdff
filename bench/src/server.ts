/** The server's own program, as it is started by anybody. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';

const PROGRAM = fileURLToPath(new URL('../../packages/server/dist-bundle/main.js', import.meta.url));

/** How many threads may search, if it is not the usual number that is measured. */
const THREADS = process.env['SEARCH_THREADS'];

/** @param data folder of the embedded database @param databaseUrl a PostgreSQL instead of it */
export async function started(
  data: string,
  options: readonly string[] = [],
  databaseUrl = process.env['DATABASE_URL'] ?? '',
): Promise<{ server: ChildProcess; address: string }> {
  const threads = THREADS ? ['--search-threads', THREADS] : [];
  const server = spawn(process.execPath, [PROGRAM, '--port', '0', '--data', data, ...threads, ...options], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, DATABASE_URL: databaseUrl },
  });
  const [said] = (await once(server.stdout!, 'data')) as [Buffer];
  return { server, address: /http:\S+/.exec(said.toString())![0] };
}

export async function stopped(server: ChildProcess): Promise<void> {
  server.kill('SIGTERM');
  await once(server, 'exit');
}
