/** /api/boxes/:id/share: with whom a box is shared, and what its readers may see and do; for who builds its table. */
import Router from '@koa/router';
import {
  shareSchema,
  type BoxShare,
  type Column,
  type MadeLink,
  type Share,
  type StoredBox,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import type { SharedBoxes } from '../access/shared-boxes.js';
import { slugOf } from '../access/shared-boxes.js';
import type { RouteData } from '../data/data.js';
import { NotThere } from './http-problem.js';
import { idOf } from './ids.js';
import { noted } from './people.js';
import { bodyOf } from './validate.js';

const shareOf = bodyOf<Share>(shareSchema);

export function sharingRoutes({ boxes, tables, sharing, people }: RouteData, shared: SharedBoxes): Router {
  const router = new Router({ prefix: '/api/boxes/:id/share' });

  const find = async (ctx: Context): Promise<{ stored: StoredBox; told: BoxShare; columns: readonly Column[] }> => {
    const stored = await boxes.find(idOf(ctx, 'box'));
    const table = stored && (await tables.find(stored.tableId));
    if (!table) throw new NotThere('box');
    const { columns } = table;
    return { stored, told: await sharing.of(stored.id, stored.box, columns), columns };
  };

  router.get('/', async (ctx) => {
    ctx.set('Cache-Control', 'no-store');
    ctx.body = (await find(ctx)).told;
  });

  router.put('/', async (ctx) => {
    const share = shareOf(ctx.request.body);
    const { stored, columns } = await find(ctx);
    await sharing.set(stored.id, share, columns);
    shared.changed();
    await people.note(noted(ctx), `shared ${stored.name} ${inWords(share)}`);
    ctx.body = (await find(ctx)).told;
  });

  router.post('/link', async (ctx) => {
    const { stored, told, columns } = await find(ctx);
    const secret = await sharing.newLink(stored.id, told.share, columns);
    shared.changed();
    await people.note(noted(ctx), `made a ${told.link ? 'new ' : ''}link to ${stored.name}`);
    ctx.status = 201;
    ctx.body = { path: `/b/${slugOf(stored.name, secret)}`, until: null } satisfies MadeLink;
  });

  router.delete('/link', async (ctx) => {
    const { stored } = await find(ctx);
    await sharing.endLink(stored.id);
    shared.changed();
    await people.note(noted(ctx), `ended the link to ${stored.name}`);
    ctx.status = 204;
  });

  return router;
}

function inWords({ everyone, people, columns, may }: Share): string {
  const whom = [everyone && 'everyone signed in', people.length > 0 && `${people.length} by name`].filter(Boolean);
  const what = may.length > 0 ? `to ${may.join(', ')}` : 'to look only';
  return `with ${whom.join(' and ') || 'nobody by name'}, ${columns.length} columns, ${what}`;
}
