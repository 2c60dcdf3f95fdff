/** /api/events: whenever something has happened to a table or a box, for shelves that are open. */
import Router from '@koa/router';
import type { Follower } from '../live/follower.js';
import { beginsEvents } from './event-stream.js';

export function eventRoutes(follower: Follower): Router {
  const router = new Router({ prefix: '/api/events' });
  router.get('/', async (ctx) => {
    if (beginsEvents(ctx)) await follower.openShelf(ctx.res);
  });
  return router;
}
