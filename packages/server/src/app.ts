/** The Koa application: one middleware after another, one router a noun. */
import { randomBytes } from 'node:crypto';
import { Readable } from 'node:stream';
import { bodyParser } from '@koa/bodyparser';
import compress from 'koa-compress';
import conditional from 'koa-conditional-get';
import etag from '@koa/etag';
import Koa, { type Middleware } from 'koa';
import { LIMITS } from '@usual-needle/contract';
import type { Logger } from 'pino';
import type { Access } from './access/access.js';
import { NotAllowed } from './access/not-allowed.js';
import type { Origins } from './access/origins.js';
import type { SharedBoxes } from './access/shared-boxes.js';
import type { Data } from './data/data.js';
import { addressBarRoutes } from './routes/address-bar.js';
import { allowedOnly, mustBeListed } from './routes/allowed.js';
import { backupRoutes } from './routes/backup.js';
import { borrowingRoutes } from './routes/borrowing.js';
import { boxRoutes } from './routes/boxes.js';
import { changeRoutes } from './routes/changes.js';
import { columnRoutes } from './routes/columns.js';
import { demoRoutes } from './routes/demo.js';
import { descriptionRoutes } from './routes/description.js';
import { isEdit, isFile, knownTypesOnly, ownPagesOnly, securityHeaders } from './routes/guard.js';
import { eventRoutes } from './routes/events.js';
import { formTokensAsked, formTokensGiven } from './routes/form-token.js';
import { healthRoutes } from './routes/health.js';
import { interfaceFiles } from './routes/interface.js';
import { addressesOfForms } from './routes/addresses-of-forms.js';
import { HttpProblem, NotThere } from './routes/http-problem.js';
import { peopleRoutes } from './routes/people.js';
import { problems } from './routes/problems.js';
import { rowRoutes } from './routes/rows.js';
import { searchRoutes } from './routes/searching.js';
import { sourceRoutes } from './routes/sources.js';
import type { SourcesRun } from './sources/sources-run.js';
import { sharedRoutes } from './routes/shared.js';
import { sharingRoutes } from './routes/sharing.js';
import { takeOutRoutes } from './routes/taking-out.js';
import { signInRoutes } from './routes/signing-in.js';
import { toldPath } from './routes/told-path.js';
import { tableRoutes } from './routes/tables.js';
import { tokenRoutes } from './routes/tokens.js';
import { refusalsArrive } from './routes/unread.js';
import type { Follower } from './live/follower.js';
import { Removal } from './live/removal.js';
import type { TakeOuts } from './take-out/take-outs.js';
import type { Metrics } from './watching/metrics.js';
import type { SearchThreads } from './threads/search-threads.js';

export interface Parts {
  readonly data: Data;
  readonly threads: SearchThreads;
  readonly follower: Follower;
  readonly takeOuts: TakeOuts;
  readonly sources: SourcesRun;
  readonly metrics: Metrics;
  readonly origins: Origins;
  readonly access: Access;
  readonly shared: SharedBoxes;
  readonly log: Logger;
  /** Origins of sites that may show shared boxes in a frame. */
  readonly frames: readonly string[];
  /** Folder of the built interface. */
  readonly interfaceFolder: string;
  /** Whether the demo may be brought in where it is not there. */
  readonly offersDemo: boolean;
}

/** Letters of the id of a request: nobody guesses one, and it is short enough to be read out. */
const ID_LETTERS = 12;

/** Times each request, counts it, and logs it in one line, under an id that the answer carries. */
function timing(log: Logger, metrics: Metrics): Middleware {
  return async (ctx, next) => {
    const start = performance.now();
    const id = randomBytes(ID_LETTERS).toString('base64url').slice(0, ID_LETTERS);
    ctx.set('Request-Id', id);
    await next();
    const ms = performance.now() - start;
    const { method, status } = ctx;
    ctx.set('Server-Timing', `all;dur=${ms.toFixed(1)}`);
    metrics.request(method, status, ms / 1_000);
    log.info({ request: id, method, path: toldPath(ctx.path), status, ms: Number(ms.toFixed(1)) }, 'answered');
  };
}

/** Tags for what is read; an answer to a question is never asked for again by one. */
function tagsOfReading(): Middleware {
  const tags = etag();
  return (ctx, next) => (ctx.method === 'GET' || ctx.method === 'HEAD' ? tags(ctx, next) : next());
}

/**
 * Cuts off an answer whose stream fails in the middle, so that nobody waits for the rest, nor takes what came for whole. Compressing
 * hides such an error from Koa, which would see to it otherwise.
 */
function cutOffWhereItFails(failed: (error: Error) => void): Middleware {
  return async (ctx, next) => {
    await next();
    if (!(ctx.body instanceof Readable)) return;
    ctx.body.once('error', (error: Error) => {
      failed(error);
      ctx.res.destroy();
    });
  };
}

/** Says of what is brought in at the first start that the server is starting, not that it is gone. */
function notYetThere(threads: SearchThreads): Middleware {
  return async (_ctx, next) => {
    try {
      await next();
    } catch (error) {
      if (!(error instanceof NotThere) || threads.health().status === 'ready') throw error;
      throw new HttpProblem(503, 'The server is starting', 'It opens by itself.', { 'Retry-After': '1' });
    }
  };
}

/** A file is read by whoever it is for, even where it is JSON. */
function filesAsTheyCome(): Middleware {
  return (ctx, next) => {
    ctx['disableBodyParser'] = isFile(ctx.method, ctx.path);
    return next();
  };
}

/** Reads a body that is JSON. @param limit bytes that it may have */
function jsonOf(limit: number): Middleware {
  return bodyParser({
    enableTypes: ['json'],
    jsonLimit: String(limit),
    onError: (error) => {
      if ((error as { type?: string }).type === 'entity.too.large')
        throw new HttpProblem(413, 'The request is too large', `It may have ${limit / 1024} kB.`);
      throw new HttpProblem(400, 'The request is not JSON');
    },
  });
}

/** Errors of a connection that say that whoever asked has gone: before the answer came, or in the middle of what was sent. */
const LEFT: ReadonlySet<string | undefined> = new Set([
  'ECONNRESET',
  'EPIPE',
  'ERR_STREAM_PREMATURE_CLOSE',
  'HPE_INVALID_EOF_STATE',
]);

export function createApp(parts: Parts): Koa {
  const { data, threads, follower, takeOuts, metrics, origins, access, shared, log, interfaceFolder, offersDemo } =
    parts;
  const app = new Koa();
  const failed = (error: NodeJS.ErrnoException): void => {
    if (!LEFT.has(error.code) && !(error instanceof NotAllowed)) log.error({ err: error }, 'connection failed');
  };
  app.on('error', failed);
  app.use(refusalsArrive());
  app.use(timing(log, metrics));
  app.use(securityHeaders(parts.frames));
  app.use(problems(log));
  app.use(notYetThere(threads));
  app.use(ownPagesOnly(origins));
  app.use(knownTypesOnly());
  // Answers of a keystroke are a few kilobytes to a near reader: compressing them costs more than it saves.
  app.use(compress({ threshold: 64 * 1024, br: false }));
  app.use(cutOffWhereItFails(failed));
  app.use(conditional());
  app.use(tagsOfReading());
  app.use(formTokensGiven(access));
  app.use(addressesOfForms());
  app.use(interfaceFiles(interfaceFolder));
  app.use(allowedOnly(access, data.boxes, (id) => threads.earlier.asked(id)?.now ?? id));
  app.use(formTokensAsked());
  app.use(filesAsTheyCome());
  const [usual, edits] = [jsonOf(LIMITS.json), jsonOf(LIMITS.edits)];
  app.use((ctx, next) => (isEdit(ctx.method, ctx.path) ? edits(ctx, next) : usual(ctx, next)));
  const removal = new Removal(data, threads, follower);
  const routers = [
    descriptionRoutes(),
    healthRoutes(threads, data, metrics),
    eventRoutes(follower, access),
    tableRoutes(data, threads, follower, removal, offersDemo),
    rowRoutes(data, threads, follower, access),
    searchRoutes(threads),
    demoRoutes(data, threads, follower, removal),
    changeRoutes(data, follower, access),
    columnRoutes(data, follower),
    borrowingRoutes(data, threads),
    boxRoutes(data, follower, shared, log),
    sharingRoutes(data, shared),
    sharedRoutes(data, threads, follower, access, shared, log),
    takeOutRoutes(data, threads, access, shared, takeOuts, log),
    addressBarRoutes(threads, access, shared),
    signInRoutes(access),
    peopleRoutes(access),
    tokenRoutes(access),
    backupRoutes(data),
    sourceRoutes(data, parts.sources),
  ];
  mustBeListed(routers);
  for (const router of routers) {
    app.use(router.routes());
    app.use(router.allowedMethods());
  }
  return app;
}
