/** /api/tables: what there is, bringing one in, describing it, deleting it and bringing it back, and looking at it as it was. */
import Router from '@koa/router';
import {
  bringInQuerySchema,
  dependentsQuerySchema,
  earlierRequestSchema,
  isAllStorable,
  isStorable,
  LIMITS,
  tableChangeSchema,
  type BringInQuery,
  type Dependents,
  type DependentsQuery,
  type EarlierRequest,
  type ShelfContent,
  type TableChange,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import { principalOf } from '../access/principal.js';
import type { Principal } from '../access/principal.js';
import { buildsEverything, mayOnlyRefresh, roleOf, scopeOf } from '../access/scopes.js';
import { seenTable } from '../access/seen.js';
import type { RouteData } from '../data/data.js';
import { DEMO_SOURCE } from '../data/tables.js';
import type { Follower } from '../live/follower.js';
import type { Removal } from '../live/removal.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { boxOf, sendBox } from './boxes.js';
import { dependentsOf } from '../data/dependents.js';
import { noChange, noTable, tableOf, type AskedTable } from './found.js';
import { idOf } from './ids.js';
import { incomingOf } from './incoming.js';
import { HttpProblem } from './http-problem.js';
import { bodyOf, queryOf } from './validate.js';
import { clash, setVersion, versionsOf } from './versions.js';

const bringInQuery = queryOf<BringInQuery>(bringInQuerySchema);
const tableChange = bodyOf<TableChange>(tableChangeSchema);
const dependentsQuery = queryOf<DependentsQuery>(dependentsQuerySchema);
const earlierRequest = bodyOf<EarlierRequest>(earlierRequestSchema);

export function tableRoutes(
  { tables, boxes, changes, bringIns, records, sharing }: RouteData,
  threads: SearchThreads,
  follower: Follower,
  removal: Removal,
  offersDemo: boolean,
): Router {
  const router = new Router({ prefix: '/api/tables' });

  const find = (ctx: Context): Promise<AskedTable> => tableOf(ctx, tables);

  /** Boxes on tables that a person builds or keeps. */
  const boxesFor = async (principal: Principal): Promise<ShelfContent['boxes']> =>
    (await boxes.list()).filter(({ tableId }) => roleOf(principal, tableId));
  /** Boxes that are shared with a person who has no role on their tables. */
  const sharedWith = async (principal: Principal): Promise<ShelfContent['shared']> => {
    if (principal.is !== 'person' || principal.everything) return [];
    const isOfToken = (table: number): boolean => principal.token?.tables?.includes(table) !== false;
    const open = (await sharing.openTo(principal.id)).filter(
      ({ tableId }) => !roleOf(principal, tableId) && isOfToken(tableId),
    );
    const found = await Promise.all(open.map(({ id }) => boxes.find(id)));
    return found.flatMap((box) => (box ? [{ id: box.id, name: box.name }] : []));
  };

  router.get('/', async (ctx) => {
    const deleted = [...(await tables.deleted()), ...(await boxes.deleted())];
    deleted.sort((a, b) => (a.deletedAt < b.deletedAt ? 1 : -1));
    ctx.set('Cache-Control', 'no-cache');
    const principal = principalOf(ctx.req);
    const mine = (await tables.list()).filter(({ id }) => roleOf(principal, id));
    const list = mine.map((table) => seenTable(table, scopeOf(principal, table.id)));
    const onlyRefreshes = mayOnlyRefresh(principal);
    const demo = (await tables.idsFrom(DEMO_SOURCE, false)).length > 0 ? 'there' : offersDemo ? 'away' : null;
    ctx.body = {
      tables: list,
      boxes: onlyRefreshes ? [] : await boxesFor(principal),
      deleted: buildsEverything(principal) ? deleted : [],
      demo: buildsEverything(principal) ? demo : null,
      shared: onlyRefreshes ? [] : await sharedWith(principal),
    } satisfies ShelfContent;
  });

  router.post('/', async (ctx) => {
    const { name, how } = bringInQuery(ctx.query);
    if (!isStorable(name)) throw new HttpProblem(422, 'The name holds a character that cannot be kept');
    // What reads files is read itself when there is one: a start does not wait for it.
    const { bringIn } = await import('../imports/bring-in.js');
    const table = await bringIn(bringIns, threads, name.trim(), incomingOf(ctx, how));
    follower.shelf();
    ctx.status = 201;
    ctx.set('Location', `/api/tables/${table.id}`);
    ctx.body = table;
  });

  router.get('/:id', async (ctx) => {
    const { table, scope } = await find(ctx);
    setVersion(ctx, table.version);
    // The version is that of its columns: rows, the last change and more of what is told here go on without it.
    ctx.set('Cache-Control', 'no-store');
    ctx.body = seenTable(table, scope);
  });

  router.patch('/:id', async (ctx) => {
    const change = tableChange(ctx.request.body);
    if (!isAllStorable(change)) throw new HttpProblem(422, 'The change holds a character that cannot be kept');
    const versions = versionsOf(ctx);
    const { table, scope } = await find(ctx);
    const { id } = table;
    const changed = await tables.describe(id, versions, { ...change, name: change.name?.trim() });
    if (!changed) throw clash('table');
    await changes.tell(id);
    follower.shelf();
    setVersion(ctx, changed.version);
    ctx.body = seenTable(changed, scope);
  });

  router.get('/:id/dependents', async (ctx) => {
    const { column } = dependentsQuery(ctx.query);
    const { id } = (await find(ctx)).table;
    ctx.set('Cache-Control', 'no-cache');
    const principal = principalOf(ctx.req);
    const told = (await tables.list()).filter((table) => roleOf(principal, table.id));
    ctx.body = dependentsOf(id, column, told, await boxes.ofTable(id)) satisfies Dependents;
  });

  router.delete('/:id', async (ctx) => {
    const id = idOf(ctx, 'table');
    if (!(await removal.remove(id))) throw noTable(id);
    ctx.status = 204;
  });

  router.post('/:id/restore', async (ctx) => {
    const table = await removal.restore(idOf(ctx, 'table'));
    if (!table) throw new HttpProblem(404, 'There is no such deleted table');
    ctx.body = seenTable(table, scopeOf(principalOf(ctx.req), table.id));
  });

  router.post('/:id/boxes', async (ctx) => {
    const box = boxOf(ctx.request.body);
    const { table } = await find(ctx);
    const kept = await boxes.add(table.id, box.name, box);
    ctx.status = 201;
    ctx.set('Location', `/api/boxes/${kept.id}`);
    sendBox(ctx, kept);
  });

  router.post('/:id/earlier', async (ctx) => {
    const { at } = earlierRequest(ctx.request.body);
    const { table, scope } = await find(ctx);
    const change = at > table.change ? undefined : await tables.timeOf(table.id, at);
    if (change === undefined) throw noChange();
    if (table.rows > LIMITS.earlier)
      throw new HttpProblem(
        422,
        'This table is too large to be looked at as it was',
        `It may have ${LIMITS.earlier.toLocaleString('en')} rows. As a file it can be had at any size.`,
      );
    const columns = await records.columnsThen(scope, table, at);
    const { id: now, rows } = table;
    const { id } = threads.earlier.open({ now, change: at, columns, rows }, () => records.rowsThen(scope, table, at));
    ctx.status = 201;
    const then = { ...table, id, now, columns: [...columns], change: at, changedAt: new Date(change).toISOString() };
    ctx.body = seenTable(then, scope);
  });

  return router;
}
