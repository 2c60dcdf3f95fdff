/** /api/events: whenever something has happened to a table or a box, for shelves that are open. */
import Router from '@koa/router';
import type { Follower } from '../live/follower.js';

export function eventRoutes(follower: Follower): Router {
  const router = new Router({ prefix: '/api/events' });
  router.get('/', async (ctx) => {
    if (ctx.method === 'HEAD') {
      ctx.type = 'text/event-stream';
      ctx.status = 200;
      return;
    }
    ctx.respond = false;
    await follower.openShelf(ctx.res);
  });
  return router;
}
