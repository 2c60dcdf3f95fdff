/** /api/boxes: the boxes that are kept: reading, changing, deleting one, and bringing a deleted one back. */
import Router from '@koa/router';
import { isAllStorable, keepBoxSchema, type BoxNews, type KeepBox, type StoredBox } from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Logger } from 'pino';
import { whoIs } from '../access/principal.js';
import type { SharedBoxes } from '../access/shared-boxes.js';
import type { RouteData } from '../data/data.js';
import type { Follower } from '../live/follower.js';
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

function whoOf(body: unknown): string | null {
  return valid(body).who?.trim() || null;
}

export function sendBox(ctx: Context, box: StoredBox): void {
  setVersion(ctx, box.version);
  ctx.body = box;
}

export function boxRoutes({ boxes, changes }: RouteData, follower: Follower, shared: SharedBoxes, log: Logger): Router {
  const router = new Router({ prefix: '/api/boxes' });

  /** Tells everybody who has the table open, on this server and on others. */
  const tell = async ({ id, tableId, version }: StoredBox, who: string | null, deleted: boolean): Promise<void> => {
    const news: BoxNews = { box: id, version, who, deleted };
    follower.box(tableId, news);
    await changes.tellBox(tableId, news);
  };
  const missing = (): HttpProblem => new NotThere('box');
  /** Why a box was not changed: it has gone, or somebody else has changed it. */
  const refusal = async (id: number): Promise<HttpProblem> => ((await boxes.find(id)) ? clash('box') : missing());

  router.get('/:id', async (ctx) => {
    const box = await boxes.find(idOf(ctx, 'box'));
    if (!box) throw missing();
    // By a person, as their page says; a program only reads it.
    if (ctx.query['opens'] !== undefined)
      boxes.wasOpened(box.id).catch((error: unknown) => log.warn({ err: error }, 'an opening was not counted'));
    sendBox(ctx, box);
  });

  router.put('/:id', async (ctx) => {
    const id = idOf(ctx, 'box');
    const versions = versionsOf(ctx);
    const box = boxOf(ctx.request.body);
    const changed = await boxes.change(id, versions, box.name, box);
    if (!changed) throw await refusal(id);
    await tell(changed, whoIs(ctx.req, whoOf(ctx.request.body) ?? undefined) ?? null, false);
    shared.changed();
    sendBox(ctx, changed);
  });

  router.delete('/:id', async (ctx) => {
    const id = idOf(ctx, 'box');
    const deleted = await boxes.delete(id, versionsOf(ctx));
    if (!deleted) throw await refusal(id);
    await tell(deleted, null, true);
    shared.changed();
    ctx.status = 204;
  });

  router.post('/:id/restore', async (ctx) => {
    const box = await boxes.restore(idOf(ctx, 'box'));
    if (!box) throw new HttpProblem(404, 'There is no such deleted box');
    sendBox(ctx, box);
  });

  return router;
}
