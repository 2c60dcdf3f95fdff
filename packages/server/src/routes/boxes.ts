/** /api/boxes: the boxes that are kept: reading, changing, deleting one, and bringing a deleted one back. */
import Router from '@koa/router';
import { keepBoxSchema, type KeepBox, type StoredBox } from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Records } from '../data/records.js';
import { idOf } from './ids.js';
import { HttpProblem } from './problems.js';
import { bodyOf } from './validate.js';
import { clash, setVersion, versionOf } from './versions.js';

const keepBox = bodyOf<KeepBox>(keepBoxSchema);

export function sendBox(ctx: Context, box: StoredBox): void {
  setVersion(ctx, box.version);
  ctx.body = box;
}

export function boxRoutes(records: Records): Router {
  const router = new Router({ prefix: '/api/boxes' });

  const missing = (): HttpProblem => new HttpProblem(404, 'There is no such box');
  /** Why a box was not changed: it has gone, or somebody else has changed it. */
  const refusal = async (id: number): Promise<HttpProblem> => ((await records.findBox(id)) ? clash('box') : missing());

  router.get('/:id', async (ctx) => {
    const box = await records.findBox(idOf(ctx, 'box'));
    if (!box) throw missing();
    sendBox(ctx, box);
  });

  router.put('/:id', async (ctx) => {
    const id = idOf(ctx, 'box');
    const { box } = keepBox(ctx.request.body);
    const changed = await records.changeBox(id, versionOf(ctx), box.name, box);
    if (!changed) throw await refusal(id);
    sendBox(ctx, changed);
  });

  router.delete('/:id', async (ctx) => {
    const id = idOf(ctx, 'box');
    if (!(await records.deleteBox(id, versionOf(ctx)))) throw await refusal(id);
    ctx.status = 204;
  });

  router.post('/:id/restore', async (ctx) => {
    const box = await records.restoreBox(idOf(ctx, 'box'));
    if (!box) throw new HttpProblem(404, 'There is no such deleted box');
    sendBox(ctx, box);
  });

  return router;
}
