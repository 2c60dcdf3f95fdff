/** The embedded database's folder and the thread that PostgreSQL runs in. It is started before the rest of the program is read. */
import { once } from 'node:events';
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { isThere } from '../folders.js';
import type { Compiled } from './durable.js';
import { lockFolder } from './folder-lock.js';
import { copyTemplate } from './template.js';

/** The database cannot be opened, and why, in words for whoever started the server. */
export class CannotOpen extends Error {}

/** @param error what it says, or what was thrown because of that */
export function cannotOpen(folder: string, error: unknown): CannotOpen {
  const cause = (error as { cause?: Error }).cause ?? (error as Error);
  return new CannotOpen(`The database in ${folder} cannot be opened: ${cause.message}.`);
}

/** An embedded database that runs. */
export interface Embedded {
  readonly folder: string;
  /** Folder of the socket that it listens on. */
  readonly sockets: string;
  close(): Promise<void>;
}

/**
 * Room that is kept free on the disk, in bytes: a database that stopped on a full disk has to write before it can start, so
 * then it is given this.
 */
const RESERVE = 48 * 1024 * 1024;
const RESERVE_FILE = 'reserve';

/**
 * A folder and those above it that are not there yet. By steps of our own, since Node's does not come to an end where the
 * system says of a folder that is there that it is not, as it does in `/proc`.
 */
async function makeFolder(folder: string): Promise<void> {
  if (await isThere(folder)) return;
  const above = dirname(folder);
  if (above !== folder) await makeFolder(above);
  await mkdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'EEXIST') throw error;
  });
}

// Of the platform; the library of types for Node lacks it.
declare const WebAssembly: { compile(bytes: Uint8Array): Promise<Compiled> };

let compiled: Promise<Compiled> | undefined;
/** PostgreSQL as PGlite has it, compiled. */
function postgres(): Promise<Compiled> {
  const beside = createRequire(import.meta.url).resolve('@electric-sql/pglite');
  return (compiled ??= readFile(join(dirname(beside), 'pglite.wasm')).then((bytes) => WebAssembly.compile(bytes)));
}

/** Starts the embedded database. @throws what it says if it does not start */
async function startThread(folder: string, sockets: string): Promise<Worker> {
  const worker = new Worker(new URL('./embedded.worker.js', import.meta.url), {
    workerData: { folder: join(folder, 'pg'), socket: join(sockets, '.s.PGSQL.5432') },
    stderr: true,
    stdout: true,
  });
  let said = '';
  worker.stderr.on('data', (data: Buffer) => (said += data.toString()));
  worker.stdout.on('data', (data: Buffer) => (said += data.toString()));
  const exit = once(worker, 'exit').then(() => {
    throw new Error(said.trim().split('\n').at(-1) ?? 'it ended at once');
  });
  try {
    worker.postMessage(await postgres());
    await Promise.race([once(worker, 'message'), exit]);
  } catch (error) {
    await worker.terminate();
    throw error;
  }
  exit.catch(() => undefined);
  return worker;
}

/** @throws FolderInUse if another process has the folder; CannotOpen */
export async function startEmbedded(folder: string): Promise<Embedded> {
  let unlock: () => Promise<void>;
  try {
    await makeFolder(folder);
    unlock = await lockFolder(folder);
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    if (code === undefined) throw error;
    throw new CannotOpen(`The data folder ${folder} cannot be written to: ${message}.`);
  }
  let sockets: string | undefined;
  const release = async (): Promise<void> => {
    if (sockets) await rm(sockets, { recursive: true, force: true });
    await unlock();
  };
  try {
    const reserve = join(folder, RESERVE_FILE);
    await copyTemplate(join(folder, 'pg'));
    sockets = await mkdtemp(join(tmpdir(), 'usual-needle-'));
    let worker: Worker;
    try {
      worker = await startThread(folder, sockets);
    } catch (error) {
      if (!(await isThere(reserve))) throw error;
      await rm(reserve);
      worker = await startThread(folder, sockets);
    }
    // A disk that has no room for it now may have some at the next start.
    if (!(await isThere(reserve)))
      await writeFile(reserve, new Uint8Array(RESERVE)).catch(() => rm(reserve, { force: true }));
    const close = async (): Promise<void> => {
      worker.postMessage('close');
      await once(worker, 'exit');
      await release();
    };
    return { folder, sockets, close };
  } catch (error) {
    await release();
    throw cannotOpen(folder, error);
  }
}
