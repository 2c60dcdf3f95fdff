/** The Koa application: one middleware after another, one router a noun. */
import bodyParser from 'koa-bodyparser';
import compress from 'koa-compress';
import Koa from 'koa';
import type { Logger } from 'pino';
import type { Records } from './data/records.js';
import type { Engine } from './engine/engine.js';
import { boxRoutes } from './routes/boxes.js';
import { interfaceFiles } from './routes/interface.js';
import { problems } from './routes/problems.js';
import { tableRoutes } from './routes/tables.js';

export interface Parts {
  readonly records: Records;
  readonly engine: Engine;
  readonly log: Logger;
  /** Folder of the built interface. */
  readonly interfaceFolder: string;
}

export function createApp({ records, engine, log, interfaceFolder }: Parts): Koa {
  const app = new Koa();
  app.on('error', (error: NodeJS.ErrnoException) => {
    // A reader who left before the answer came is no error.
    if (error.code !== 'ECONNRESET' && error.code !== 'ERR_STREAM_PREMATURE_CLOSE')
      log.error({ err: error }, 'connection failed');
  });
  app.use(async (ctx, next) => {
    const start = performance.now();
    await next();
    ctx.set('Server-Timing', `all;dur=${(performance.now() - start).toFixed(1)}`);
    ctx.set('X-Content-Type-Options', 'nosniff');
    ctx.set('Referrer-Policy', 'same-origin');
    log.debug({ method: ctx.method, path: ctx.path, status: ctx.status, ms: performance.now() - start }, 'answered');
  });
  app.use(problems(log));
  // Answers of a keystroke are a few kilobytes to a near reader: compressing them costs more than it saves.
  app.use(compress({ threshold: 64 * 1024, br: false }));
  app.use(interfaceFiles(interfaceFolder));
  app.use(
    bodyParser({
      enableTypes: ['json'],
      jsonLimit: '2mb',
      onerror: (error, ctx) => ctx.throw(400, `The request is not JSON: ${error.message}`),
    }),
  );
  for (const router of [tableRoutes(records, engine), boxRoutes(records)]) {
    app.use(router.routes());
    app.use(router.allowedMethods());
  }
  return app;
}
