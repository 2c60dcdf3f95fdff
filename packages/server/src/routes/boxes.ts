/** /api/boxes: the boxes that are kept: reading, changing, deleting one, and bringing a deleted one back. */
import Router from '@koa/router';
import { isAllStorable, keepBoxSchema, type KeepBox, type StoredBox } from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Boxes } from '../data/boxes.js';
import { idOf } from './ids.js';
import { HttpProblem, NotThere } from './http-problem.js';
import { bodyOf } from './validate.js';
import { clash, setVersion, versionsOf } from './versions.js';

const valid = bodyOf<KeepBox>(keepBoxSchema);

/** A box that came in. @throws HttpProblem if it is none, or cannot be kept */
export function boxOf(body: unknown): KeepBox['box'] & { name: string } {
  const { box } = valid(body);
  if (box.name.trim() === '') throw new HttpProblem(400, 'The box has no name', 'A name of spaces only is none.');
  if (!isAllStorable(box)) {
    const detail = 'A text in it holds a NUL character or half of a surrogate pair.';
    throw new HttpProblem(422, 'The box cannot be kept', detail);
  }
  return box;
}

export function sendBox(ctx: Context, box: StoredBox): void {
  setVersion(ctx, box.version);
  ctx.body = box;
}

export function boxRoutes(boxes: Boxes): Router {
  const router = new Router({ prefix: '/api/boxes' });

  const missing = (): HttpProblem => new NotThere('box');
  /** Why a box was not changed: it has gone, or somebody else has changed it. */
  const refusal = async (id: number): Promise<HttpProblem> => ((await boxes.find(id)) ? clash('box') : missing());

  router.get('/:id', async (ctx) => {
    const box = await boxes.find(idOf(ctx, 'box'));
    if (!box) throw missing();
    sendBox(ctx, box);
  });

  router.put('/:id', async (ctx) => {
    const id = idOf(ctx, 'box');
    const versions = versionsOf(ctx);
    const box = boxOf(ctx.request.body);
    const changed = await boxes.change(id, versions, box.name, box);
    if (!changed) throw await refusal(id);
    sendBox(ctx, changed);
  });

  router.delete('/:id', async (ctx) => {
    const id = idOf(ctx, 'box');
    if (!(await boxes.delete(id, versionsOf(ctx)))) throw await refusal(id);
    ctx.status = 204;
  });

  router.post('/:id/restore', async (ctx) => {
    const box = await boxes.restore(idOf(ctx, 'box'));
    if (!box) throw new HttpProblem(404, 'There is no such deleted box');
    sendBox(ctx, box);
  });

  return router;
}
