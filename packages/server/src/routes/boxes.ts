/** /api/boxes: the boxes that are kept. */
import Router from '@koa/router';
import type { Records } from '../data/records.js';
import { idOf } from './ids.js';
import { HttpProblem } from './problems.js';

export function boxRoutes(records: Records): Router {
  const router = new Router({ prefix: '/api/boxes' });

  router.get('/:id', async (ctx) => {
    const box = await records.findBox(idOf(ctx, 'box'));
    if (!box) throw new HttpProblem(404, 'There is no such box');
    ctx.body = box;
  });

  return router;
}
