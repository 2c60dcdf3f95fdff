/** A running server: database, search threads and application, and how to stop them. */
import type { AddressInfo } from 'node:net';
import { createServer, type RequestListener, type Server } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import { availableParallelism } from 'node:os';
import { join, resolve } from 'node:path';
import { once } from 'node:events';
import type { BoxNews } from '@usual-needle/contract';
import type { Logger } from 'pino';
import { DEMO_SOURCE } from './data/tables.js';
import { Access } from './access/access.js';
import { Origins } from './access/origins.js';
import { SharedBoxes } from './access/shared-boxes.js';
import type * as App from './app.js';
import type { Data } from './data/data.js';
import type { Database } from './data/database.js';
import { type Embedded, startEmbedded } from './data/embedded.js';
import { INTERFACE } from './folders.js';
import type { Follower } from './live/follower.js';
import type * as Standing from './routes/standing.js';
import { startingAnswers } from './routes/starting.js';
import { sourcesRun, type SourceOptions, type SourcesRun } from './sources/sources-run.js';
import { TakeOuts } from './take-out/take-outs.js';
import { Metrics } from './watching/metrics.js';
import { SearchThreads } from './threads/search-threads.js';

export interface ServerOptions {
  readonly port: number;
  readonly host: string;
  /** Further names that the server may be called by. */
  readonly names?: readonly string[];
  /** Folder of the embedded database. */
  readonly data: string;
  /** A PostgreSQL to use instead of the embedded one. */
  readonly databaseUrl?: string;
  /** How many threads may search. */
  readonly searchThreads?: number;
  /** Bytes that the process may have: tables that were asked longest ago rest, where there is more. */
  readonly memory?: number;
  /** Bring the demo tables in if there is no table yet. */
  readonly demo: boolean;
  /** Lets everybody who reaches the server do everything, without signing in. */
  readonly open?: boolean;
  /** Origins of sites that may show shared boxes in a frame. */
  readonly frames?: readonly string[];
  /** Whether a proxy in front of the server says whom requests come from, and by which scheme. */
  readonly proxy?: boolean;
  /** Certificate and key, as PEM, to be reached by HTTPS. */
  readonly tls?: { readonly cert: Buffer; readonly key: Buffer };
  /** Whether what searches is compiled before the first search, in the background; if not said, it is. */
  readonly warmUp?: boolean;
  /** The ways to what tables take newer rows from by themselves. */
  readonly sources?: SourceOptions;
  readonly log: Logger;
}

export interface RunningServer {
  readonly address: string;
  /** Fulfilled once every table answers. */
  readonly loaded: Promise<void>;
  readonly threads: SearchThreads;
  readonly follower: Follower;
  readonly data: Data;
  readonly takeOuts: TakeOuts;
  readonly sources: SourcesRun;
  /** The address that makes the first builder, where one has to be made before anybody can come in. */
  readonly firstLink: string | undefined;
  stop(): Promise<void>;
}

/** Requests under way when the server is stopped have so long, in milliseconds. */
const GRACE_MS = 2_500;
/** The time between two tidyings, in milliseconds. */
const TIDY_MS = 60 * 60 * 1000;
/** Longest that the head and the whole of a request may take to arrive, in milliseconds. */
const HEAD_MS = 20_000;
/** A connection that nothing is asked on is kept so long, in milliseconds. */
const KEPT_MS = 75_000;

function addressOf(server: Server, { host, tls }: ServerOptions): string {
  const { port } = server.address() as AddressInfo;
  return `${tls ? 'https' : 'http'}://${host === '0.0.0.0' || host === '::' ? 'localhost' : host.includes(':') ? `[${host}]` : host}:${port}`;
}

/** Leaves one processor to whatever else there is to do; two threads are quicker than one on two processors, too (see bench). */
function usualThreads(): number {
  return Math.max(2, availableParallelism() - 1);
}

async function listening(
  options: ServerOptions,
): Promise<{ server: Server; answer: (listener: RequestListener) => void }> {
  let listener = startingAnswers(INTERFACE);
  const answering: RequestListener = (request, response) => listener(request, response);
  const server = options.tls ? createSecureServer(options.tls, answering) : createServer(answering);
  server.headersTimeout = HEAD_MS;
  // A large file may take its time; whoever sends nothing for long is ended by the timeout between bytes.
  server.requestTimeout = 0;
  server.timeout = 5 * 60 * 1000;
  // Usual proxies keep a connection for 60 s, and would send on one that is being closed here.
  server.keepAliveTimeout = KEPT_MS;
  server.listen(options.port, options.host);
  await once(server, 'listening');
  return { server, answer: (next) => (listener = next) };
}

/** @throws FolderInUse, CannotOpen, or what listening throws */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const { log } = options;
  const { server, answer } = await listening(options);
  let opened: SearchThreads | undefined;
  try {
    const embedded = options.databaseUrl ? undefined : startEmbedded(resolve(options.data));
    // While the database starts, packs are read and the rest of the program is.
    const threads = (opened = new SearchThreads(
      log,
      options.searchThreads ?? usualThreads(),
      join(resolve(options.data), 'packs'),
      options.memory,
    ));
    const [database, { dataIn, tidy }, { Follower }, { createApp, standingSearches }] = await Promise.all([
      opening(embedded, options.databaseUrl),
      import('./data/data.js'),
      import('./live/follower.js'),
      routesReady(options.warmUp !== false),
    ]);
    const data = dataIn(database);
    threads.serve(data.tables, () => data.bringIns.count());
    const follower = new Follower(data.tables, threads, log);
    const origins = new Origins(options.host, options.names ?? []);
    const loopback = origins.isLoopback;
    const access = new Access(
      data.people,
      data.tokens,
      { loopback, open: options.open === true, proxy: options.proxy },
      log,
      () => data.tables.idsFrom(DEMO_SOURCE, false),
    );
    const shared = new SharedBoxes(data.tables, data.boxes, data.sharing);
    const takeOuts = new TakeOuts(threads.questions, log);
    const sources = await sourcesRun(data, follower, options.data, options.sources ?? {}, log);
    const standing = standingSearches(server, { threads, origins, access, shared, log });
    const metrics = new Metrics({ data, threads, follower }, standing.readers, join(resolve(options.data), 'packs'));
    const app = createApp({
      metrics,
      sources,
      data,
      access,
      shared,
      threads,
      follower,
      takeOuts,
      origins,
      log,
      interfaceFolder: INTERFACE,
      offersDemo: options.demo,
      frames: options.frames ?? [],
    });
    answer(app.callback());
    const keepTidy = (): void => {
      threads.earlier.tidy();
      tidy(data).catch((error: unknown) => log.warn({ err: error }, 'tidying up failed; it is tried again'));
    };
    const tidying = setInterval(keepTidy, TIDY_MS);
    const others = await database.listen(
      (text) => heard(text, data, follower),
      () => follower.catchUpAll(),
    );
    let stopped = false;
    const loaded = load(options, data, threads, () => tidy(data));
    // Tables are whole before they are refreshed.
    const begin = (): void => {
      if (stopped) return;
      sources.rounds.begin();
      threads.resting.begin();
    };
    void loaded.then(begin, () => undefined);
    threads.resting.isOpen = (id) => follower.isOpen(id);
    loaded.catch((error: unknown) => {
      // One that is stopped meanwhile has not failed.
      if (!stopped) log.error({ err: error }, 'tables could not be read');
    });
    const address = addressOf(server, options);
    const mustSignIn = (!loopback || options.proxy) && options.open !== true && !(await data.people.areMade());
    const firstLink = mustSignIn ? `${address}/come/${(await data.people.firstLink()).secret}` : undefined;
    return {
      address,
      firstLink,
      loaded,
      threads,
      follower,
      data,
      takeOuts,
      sources,
      stop: async () => {
        if (stopped) return;
        stopped = true;
        clearInterval(tidying);
        standing.close();
        follower.close();
        await others.close();
        server.close();
        server.closeIdleConnections();
        const slow = setTimeout(() => server.closeAllConnections(), GRACE_MS);
        await once(server, 'close');
        clearTimeout(slow);
        await takeOuts.close();
        await sources.rounds.close();
        await threads.close();
        await loaded.catch(() => undefined);
        await database.close();
      },
    };
  } catch (error) {
    await opened?.close();
    server.close();
    server.closeAllConnections();
    throw error;
  }
}

/** Reads what answers, and, if that is wanted, its checks of what comes in: then nobody's first request has to wait for those. */
async function routesReady(
  checks: boolean,
): Promise<Pick<typeof App & typeof Standing, 'createApp' | 'standingSearches'>> {
  const [{ createApp }, { standingSearches }, { compileAll }] = await Promise.all([
    import('./app.js'),
    import('./routes/standing.js'),
    import('./routes/validate.js'),
  ]);
  if (checks) await compileAll();
  return { createApp, standingSearches };
}

async function opening(embedded: Promise<Embedded> | undefined, url = ''): Promise<Database> {
  const [started, { openEmbeddedDatabase, openServerDatabase }] = await Promise.all([
    embedded,
    import('./data/database.js'),
  ]);
  return started ? openEmbeddedDatabase(started) : openServerDatabase(url);
}

/** Hears what another server says of a table. What this one said itself it knows. */
function heard(text: string, data: Data, follower: Follower): void {
  const { table, by, box } = readTold(text);
  if (table === undefined || by === data.changes.name) return;
  if (box) follower.box(table, box);
  else void follower.catchUp(table);
}

/** Anybody on the database may say anything there. */
function readTold(text: string): { table?: number; by?: string; box?: BoxNews } {
  try {
    const told = JSON.parse(text) as { table?: unknown; by?: unknown; box?: BoxNews } | null;
    if (!Number.isSafeInteger(told?.table) || typeof told?.by !== 'string') return {};
    const { box } = told;
    return { table: told.table as number, by: told.by, ...(Number.isSafeInteger(box?.box) && { box }) };
  } catch {
    return {};
  }
}

async function load(
  options: ServerOptions,
  data: Data,
  threads: SearchThreads,
  tidied: () => Promise<void>,
): Promise<void> {
  const there = await threads.loadAll();
  if (options.demo && there === 0 && (await data.tables.isNew())) {
    const { bringInDemo } = await import('./imports/demo.js');
    await bringInDemo(data, threads);
  }
  threads.started();
  await tidied();
  if (options.warmUp === false) return;
  threads.warmUp().catch((error: unknown) => options.log.debug({ err: error }, 'warming up was interrupted'));
}
