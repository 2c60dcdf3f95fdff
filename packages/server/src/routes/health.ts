/** /api/health: whether the server is up, and how far it is with reading its tables. */
import Router from '@koa/router';
import type { SearchThreads } from '../threads/search-threads.js';

export function healthRoutes(threads: SearchThreads): Router {
  const router = new Router({ prefix: '/api/health' });
  router.get('/', (ctx) => {
    ctx.set('Cache-Control', 'no-store');
    ctx.body = threads.health();
  });
  return router;
}
