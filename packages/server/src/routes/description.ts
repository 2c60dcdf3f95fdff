/** /api/openapi.json: the description of all routes for other programs. */
import Router from '@koa/router';

export function descriptionRoutes(): Router {
  const router = new Router({ prefix: '/api/openapi.json' });
  let made: string | undefined;
  router.get('/', async (ctx) => {
    // It is read when it is asked for: a start does not wait for it.
    made ??= JSON.stringify((await import('../api/openapi.js')).openApi());
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = made;
    ctx.type = 'application/openapi+json';
  });
  return router;
}
