/** A running server: database, engine and application, and how to stop them. */
import type { AddressInfo } from 'node:net';
import { createServer, type Server } from 'node:http';
import { resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { once } from 'node:events';
import type { Logger } from 'pino';
import { createApp } from './app.js';
import { openEmbeddedDatabase, openServerDatabase } from './data/database.js';
import { Records } from './data/records.js';
import { Engine } from './engine/engine.js';
import { liveSearches } from './routes/live.js';
import { bringInDemo } from './imports/demo.js';

export interface ServerOptions {
  readonly port: number;
  readonly host: string;
  /** Folder of the embedded database. */
  readonly data: string;
  /** A PostgreSQL to use instead of the embedded one. */
  readonly databaseUrl?: string;
  /** Bring the demo tables in if there is no table yet. */
  readonly demo: boolean;
  readonly log: Logger;
}

export interface RunningServer {
  readonly address: string;
  stop(): Promise<void>;
}

const INTERFACE = fileURLToPath(new URL('../../web/dist/browser', import.meta.url));

function addressOf(server: Server, host: string): string {
  const { port } = server.address() as AddressInfo;
  return `http://${host === '0.0.0.0' || host === '::' ? 'localhost' : host.includes(':') ? `[${host}]` : host}:${port}`;
}

/** @throws FolderInUse, or what listening or connecting throws */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const { log } = options;
  const database = options.databaseUrl
    ? await openServerDatabase(options.databaseUrl)
    : await openEmbeddedDatabase(resolve(options.data));
  const records = new Records(database.db);
  const engine = new Engine(records);
  const close = async (): Promise<void> => {
    await engine.close();
    await database.close();
  };
  try {
    await records.sweep();
    if (options.demo && (await records.isNew())) await bringInDemo(records);
    await engine.loadAll();
    const server = createServer(createApp({ records, engine, log, interfaceFolder: INTERFACE }).callback());
    const closeLive = liveSearches(server, engine, log);
    server.listen(options.port, options.host);
    await once(server, 'listening');
    engine.warmUp().catch((error: unknown) => log.warn({ err: error }, 'warming up failed'));
    return {
      address: addressOf(server, options.host),
      stop: async () => {
        closeLive();
        server.close();
        server.closeIdleConnections();
        const slow = setTimeout(() => server.closeAllConnections(), 3_000);
        await once(server, 'close');
        clearTimeout(slow);
        await close();
      },
    };
  } catch (error) {
    await close();
    throw error;
  }
}
