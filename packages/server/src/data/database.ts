/**
 * The database behind one Drizzle handle: embedded PGlite in a data folder, or the PostgreSQL that DATABASE_URL names. Same
 * driver, same schema, same migrations.
 */
import { mkdir, mkdtemp, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import { checkRoom } from './disk-room.js';
import { CHANNEL, listen, type Listening } from './notices.js';
import { lockFolder } from './folder-lock.js';
import { copyTemplate } from './template.js';

export interface Database {
  readonly db: NodePgDatabase;
  /** Of an embedded one there is nobody else, and nothing tidies up by itself. */
  readonly embedded: boolean;
  /** @param needed bytes about to be written @throws DiskFull where that is known to be too much */
  checkRoom(needed: number): Promise<void>;
  /** Hears what other servers on it say; nobody else is on an embedded one. @param back after the way was broken off */
  listen(heard: (text: string) => void, back: () => void): Promise<Listening>;
  close(): Promise<void>;
}

/** The database cannot be opened, and why, in words for whoever started the server. */
export class CannotOpen extends Error {}

const MIGRATIONS = fileURLToPath(new URL('../../migrations', import.meta.url));
/** How long a connection and a statement may take, in milliseconds. */
const CONNECT_MS = 10_000;
const STATEMENT_MS = 120_000;
/**
 * Room that is kept free on the disk, in bytes: a database that stopped on a full disk has to write before it can start, so
 * then it is given this.
 */
const RESERVE = 48 * 1024 * 1024;
const RESERVE_FILE = 'reserve';

/** @param folder of an embedded database */
async function open(config: pg.PoolConfig, folder: string | undefined, close: () => Promise<void>): Promise<Database> {
  const { connectionString: url } = config;
  const pool = new pg.Pool({ connectionTimeoutMillis: CONNECT_MS, query_timeout: STATEMENT_MS, ...config });
  // A connection that breaks while idle is replaced at the next query; without a listener it would end the process.
  pool.on('error', () => undefined);
  const db = drizzle(pool);
  const end = async (): Promise<void> => {
    await pool.end();
    await close();
  };
  try {
    await migrate(db, { migrationsFolder: MIGRATIONS });
  } catch (error) {
    await end();
    throw error;
  }
  return {
    db,
    embedded: folder !== undefined,
    listen: (heard, back) =>
      folder === undefined && url !== undefined
        ? listen(url, CHANNEL, heard, back)
        : Promise.resolve({ close: () => Promise.resolve() }),
    checkRoom: (needed) => (folder === undefined ? Promise.resolve() : checkRoom(folder, needed)),
    close: end,
  };
}

/** @throws CannotOpen */
export async function openServerDatabase(url: string): Promise<Database> {
  try {
    const config = { connectionString: url, max: 8, statement_timeout: STATEMENT_MS };
    return await open(config, undefined, () => Promise.resolve());
  } catch (error) {
    // The address holds a password, so it is not said again.
    const cause = (error as { cause?: unknown }).cause ?? error;
    const { message, code } = cause as NodeJS.ErrnoException;
    throw new CannotOpen(`The PostgreSQL that DATABASE_URL names cannot be used: ${message || code}.`);
  }
}

/**
 * A folder and those above it that are not there yet. By steps of our own, since Node's does not come to an end where the
 * system says of a folder that is there that it is not, as it does in `/proc`.
 */
async function makeFolder(folder: string): Promise<void> {
  if (await there(folder)) return;
  const above = dirname(folder);
  if (above !== folder) await makeFolder(above);
  await mkdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'EEXIST') throw error;
  });
}

const there = async (path: string): Promise<boolean> => (await stat(path).catch(() => undefined)) !== undefined;

/** Starts the embedded database. @throws what it says if it does not start */
async function startEmbedded(folder: string, sockets: string): Promise<Worker> {
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
    await Promise.race([once(worker, 'message'), exit]);
  } catch (error) {
    await worker.terminate();
    throw error;
  }
  exit.catch(() => undefined);
  return worker;
}

/** @throws FolderInUse if another process has the folder; CannotOpen */
export async function openEmbeddedDatabase(folder: string): Promise<Database> {
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
      worker = await startEmbedded(folder, sockets);
    } catch (error) {
      if (!(await there(reserve))) throw error;
      await rm(reserve);
      worker = await startEmbedded(folder, sockets);
    }
    const close = async (): Promise<void> => {
      worker.postMessage('close');
      await once(worker, 'exit');
      await release();
    };
    // One connection: PGlite is a single session, and what is prepared on it would be seen by all.
    const config = { host: sockets, database: 'postgres', user: 'postgres', max: 1, idleTimeoutMillis: 0 };
    const database = await open(config, folder, close);
    // A disk that has no room for it now may have some at the next start.
    if (!(await there(reserve)))
      await writeFile(reserve, new Uint8Array(RESERVE)).catch(() => rm(reserve, { force: true }));
    return database;
  } catch (error) {
    await release();
    const cause = (error as { cause?: Error }).cause ?? (error as Error);
    throw new CannotOpen(`The database in ${folder} cannot be opened: ${cause.message}.`);
  }
}
