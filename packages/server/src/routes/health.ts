/** /api/health and /api/metrics: whether the server is up, how far it is with reading its tables, and its state in numbers. */
import Router from '@koa/router';
import type { Live } from '@usual-needle/contract';
import type { Data } from '../data/data.js';
import type { SearchThreads } from '../threads/search-threads.js';
import type { Metrics } from '../watching/metrics.js';
import { HttpProblem } from './http-problem.js';

/** A database that does not answer within this time, in milliseconds, is taken to be away. */
const DATABASE_MS = 2_000;

/** @throws HttpProblem where the database does not answer */
async function mustAnswer(ping: () => Promise<void>): Promise<void> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, fail) => {
    timer = setTimeout(() => fail(new Error('late')), DATABASE_MS);
  });
  try {
    await Promise.race([ping(), late]);
  } catch {
    throw new HttpProblem(503, 'The database does not answer', undefined, { 'Retry-After': '1' });
  } finally {
    clearTimeout(timer);
  }
}

export function healthRoutes(threads: SearchThreads, data: Pick<Data, 'ping'>, metrics: Metrics): Router {
  const router = new Router({ prefix: '/api' });

  router.get('/health', (ctx) => {
    ctx.set('Cache-Control', 'no-store');
    ctx.body = threads.health();
  });

  router.get('/health/live', (ctx) => {
    ctx.set('Cache-Control', 'no-store');
    ctx.body = { status: 'live' } satisfies Live;
  });

  router.get('/health/ready', async (ctx) => {
    ctx.set('Cache-Control', 'no-store');
    const health = threads.health();
    if (health.status !== 'ready')
      throw new HttpProblem(503, 'The server is starting', 'It is there in a moment.', { 'Retry-After': '1' });
    await mustAnswer(data.ping);
    ctx.body = health;
  });

  router.get('/metrics', async (ctx) => {
    ctx.set('Cache-Control', 'no-store');
    ctx.body = await metrics.text();
    ctx.type = metrics.type;
  });

  return router;
}
