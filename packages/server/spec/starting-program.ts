/** The program as it is started by a command, to be killed, traced and read. */
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const MAIN = fileURLToPath(new URL('../dist-bundle/main.js', import.meta.url));

export interface Program {
  readonly child: ChildProcess;
  readonly address: string;
}

/** @param before a command to run it under, such as `strace` */
export async function startProgram(
  folder: string,
  more: readonly string[] = [],
  env: Record<string, string> = {},
  before: readonly string[] = [],
): Promise<Program> {
  const options = ['--port', '0', '--data', folder, '--no-demo', '--no-warm-up', ...more];
  const [command, ...args] = [...before, process.execPath, MAIN, ...options];
  const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, ...env } });
  let said = '';
  child.stderr!.on('data', (data: Buffer) => (said += data.toString()));
  const gone = once(child, 'exit').then(() => {
    throw new Error(`it ended: ${said}`);
  });
  gone.catch(() => undefined);
  const [out] = (await Promise.race([once(child.stdout!, 'data'), gone])) as [Buffer];
  const address = /http:\S+/.exec(out.toString())![0];
  // It listens before the database is open.
  for (let i = 0; i < 600; i++) {
    const health = (await (await fetch(`${address}/api/health`)).json()) as { status: string };
    if (health.status === 'ready') break;
    await new Promise((done) => setTimeout(done, 100));
  }
  return { child, address };
}

export async function end(child: ChildProcess, signal: NodeJS.Signals): Promise<number | null> {
  const gone = once(child, 'exit') as Promise<[number | null]>;
  child.kill(signal);
  return (await gone)[0];
}

export function folderOf(what: string): Promise<string> {
  return mkdtemp(join(tmpdir(), `usual-needle-${what}-`));
}

export function forget(folder: string): Promise<void> {
  return rm(folder, { recursive: true, force: true });
}

/** What the program says and how it ends, if it does not start. */
export function tried(
  args: readonly string[],
  env: Record<string, string> = {},
): { readonly code: number | null; readonly said: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [MAIN, ...args], {
    env: { ...process.env, LOG_LEVEL: 'silent', ...env },
    encoding: 'utf8',
    timeout: 60_000,
  });
  return { code: status, said: stdout + stderr };
}

export function isInstalled(command: string): boolean {
  return spawnSync('which', [command]).status === 0;
}
