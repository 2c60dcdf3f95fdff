/** /api/events: whenever something has happened to a table or a box, for shelves that are open. */
import Router from '@koa/router';
import type { Access } from '../access/access.js';
import type { Follower } from '../live/follower.js';
import { beginsEvents, endsWhenNotAllowed } from './event-stream.js';

export function eventRoutes(follower: Follower, access: Access): Router {
  const router = new Router({ prefix: '/api/events' });
  router.get('/', async (ctx) => {
    if (!beginsEvents(ctx)) return;
    endsWhenNotAllowed(ctx, access, ({ is }) => is !== 'nobody');
    await follower.openShelf(ctx.res);
  });
  return router;
}
