/**
 * The database behind one Drizzle handle: embedded PGlite in a data folder, or the PostgreSQL that DATABASE_URL names. Same
 * driver, same schema, same migrations.
 */
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import type pg from 'pg';
import { MIGRATIONS } from '../folders.js';
import { checkRoom } from './disk-room.js';
import { CHANNEL, listen, type Listening } from './notices.js';
import { Pool } from './pool.js';
import { CannotOpen, cannotOpen, type Embedded } from './embedded.js';

export interface Database {
  readonly db: NodePgDatabase;
  /** Whether it is the embedded one, which nobody else uses, and which tidies nothing up by itself. */
  readonly embedded: boolean;
  /** @param needed bytes about to be written @throws DiskFull where that is known to be too much */
  checkRoom(needed: number): Promise<void>;
  /** Hears what other servers on it say; nobody else is on an embedded one. @param back after the way was broken off */
  listen(heard: (text: string) => void, back: () => void): Promise<Listening>;
  /** Locks a number among all servers on it, until it is unlocked or this one ends. @returns undefined where another has it */
  lock(number: number): Promise<(() => Promise<void>) | undefined>;
  close(): Promise<void>;
}

/** Tells the locks of sources apart from others. */
const SOURCES = 7_315;

/** Locks a number on a PostgreSQL, on a connection of its own: the lock goes with it, whatever happens. */
async function locked(pool: pg.Pool, number: number): Promise<(() => Promise<void>) | undefined> {
  const client = await pool.connect();
  let isMine = false;
  try {
    const { rows } = await client.query<{ mine: boolean }>('select pg_try_advisory_lock($1, $2) as mine', [
      SOURCES,
      number,
    ]);
    isMine = rows[0].mine;
  } finally {
    if (!isMine) client.release(true);
  }
  if (!isMine) return undefined;
  // A connection that breaks meanwhile is heard of where what is done under the lock is written.
  client.on('error', () => undefined);
  return () => Promise.resolve(client.release(true));
}

/** How long a connection and a statement may take, in milliseconds. */
const CONNECT_MS = 10_000;
const STATEMENT_MS = 120_000;
/** Tells whether the last migration has been run already: asking takes one statement, migrating half a dozen. */
async function isMigrated(pool: pg.Pool): Promise<boolean> {
  const last = readMigrationFiles({ migrationsFolder: MIGRATIONS }).at(-1)!.folderMillis;
  const { rows } = await pool
    .query<{ at: string | null }>('select max(created_at) as at from drizzle.__drizzle_migrations')
    .catch(() => ({ rows: [{ at: null }] }));
  return Number(rows[0].at) >= last;
}

/** Names the lock that migrations are run under, on a PostgreSQL that several servers may start on at once. */
const MIGRATING = 7_315_420_411;

/** Runs the migrations that have not been run; of several servers one does, and the others wait for it. */
async function migrateOnce(pool: pg.Pool, alone: boolean): Promise<void> {
  const client = await pool.connect();
  try {
    if (!alone) await client.query('select pg_advisory_lock($1)', [MIGRATING]);
    await migrate(drizzle(client), { migrationsFolder: MIGRATIONS });
  } finally {
    // The lock goes with its connection, whatever happened.
    client.release(!alone);
  }
}

/** @param folder of an embedded database */
async function open(config: pg.PoolConfig, folder: string | undefined, close: () => Promise<void>): Promise<Database> {
  const { connectionString: url } = config;
  const pool = new Pool({ connectionTimeoutMillis: CONNECT_MS, query_timeout: STATEMENT_MS, ...config });
  const db = drizzle(pool);
  const end = async (): Promise<void> => {
    await pool.end();
    await close();
  };
  try {
    if (!(await isMigrated(pool))) await migrateOnce(pool, folder !== undefined);
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
    // Nobody else is on an embedded one.
    lock: (number) => (folder === undefined ? locked(pool, number) : Promise.resolve(() => Promise.resolve())),
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

/** @throws CannotOpen */
export async function openEmbeddedDatabase({ folder, sockets, close }: Embedded): Promise<Database> {
  // One connection: PGlite is a single session, and what is prepared on it would be seen by all.
  const config = { host: sockets, database: 'postgres', user: 'postgres', max: 1, idleTimeoutMillis: 0 };
  try {
    return await open(config, folder, close);
  } catch (error) {
    throw cannotOpen(folder, error);
  }
}
