/** The server's own program, as it is started by anybody. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';

const PROGRAM = fileURLToPath(new URL('../../packages/server/dist-bundle/main.js', import.meta.url));

/** How many threads may search, if it is not the usual number that is measured. */
const THREADS = process.env['SEARCH_THREADS'];

/** The folder that the processor profiles of the server's threads go to, if they are wanted. */
const PROFILE = process.env['PROFILE'];

let lastStarted = '';

/** @param data folder of the embedded database @param databaseUrl a PostgreSQL instead of it */
export async function started(
  data: string,
  options: readonly string[] = [],
  databaseUrl = process.env['DATABASE_URL'] ?? '',
): Promise<{ server: ChildProcess; address: string }> {
  const threads = THREADS ? ['--search-threads', THREADS] : [];
  const profiled = PROFILE ? ['--cpu-prof', '--cpu-prof-dir', PROFILE] : [];
  const server = spawn(
    process.execPath,
    [...profiled, PROGRAM, '--port', '0', '--data', data, ...threads, ...options],
    {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, DATABASE_URL: databaseUrl, LOG_LEVEL: 'warn' },
    },
  );
  lastStarted = String(server.pid);
  const [said] = (await once(server.stdout!, 'data')) as [Buffer];
  return { server, address: /http:\S+/.exec(said.toString())![0] };
}

export async function stopped(server: ChildProcess): Promise<void> {
  server.kill('SIGTERM');
  await once(server, 'exit');
}

/** The number of the process of the server that was started last, which is measured from without. */
export function serverProcess(): string {
  return lastStarted;
}

export const JSON_TYPE = { 'content-type': 'application/json' };
export const pause = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
