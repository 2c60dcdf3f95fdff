/**
 * The database behind one Drizzle handle: embedded PGlite in a data folder, or the PostgreSQL that DATABASE_URL names. Same
 * driver, same schema, same migrations.
 */
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import { lockFolder } from './folder-lock.js';
import { copyTemplate } from './template.js';

export interface Database {
  readonly db: NodePgDatabase;
  close(): Promise<void>;
}

const MIGRATIONS = fileURLToPath(new URL('../../migrations', import.meta.url));

async function open(config: pg.PoolConfig, close: () => Promise<void>): Promise<Database> {
  const pool = new pg.Pool(config);
  // A connection that breaks while idle is replaced at the next query; without a listener it would end the process.
  pool.on('error', () => undefined);
  const db = drizzle(pool);
  try {
    await migrate(db, { migrationsFolder: MIGRATIONS });
  } catch (error) {
    await pool.end();
    await close();
    throw error;
  }
  return {
    db,
    close: async () => {
      await pool.end();
      await close();
    },
  };
}

export function openServerDatabase(url: string): Promise<Database> {
  return open({ connectionString: url, max: 8 }, () => Promise.resolve());
}

/** @throws FolderInUse if another process has the folder */
export async function openEmbeddedDatabase(folder: string): Promise<Database> {
  await mkdir(folder, { recursive: true });
  const unlock = await lockFolder(folder);
  await copyTemplate(join(folder, 'pg'));
  const sockets = await mkdtemp(join(tmpdir(), 'usual-needle-'));
  const worker = new Worker(new URL('./embedded.worker.js', import.meta.url), {
    workerData: { folder: join(folder, 'pg'), socket: join(sockets, '.s.PGSQL.5432') },
  });
  const close = async (): Promise<void> => {
    worker.postMessage('close');
    await once(worker, 'exit');
    await rm(sockets, { recursive: true, force: true });
    await unlock();
  };
  try {
    await once(worker, 'message');
  } catch (error) {
    await rm(sockets, { recursive: true, force: true });
    await unlock();
    throw error;
  }
  // One connection: PGlite is a single session, and what is prepared on it would be seen by all.
  return open({ host: sockets, database: 'postgres', user: 'postgres', max: 1, idleTimeoutMillis: 0 }, close);
}
