/** /api/tables/:id/changes and /events: editing rows, the log, undoing, and being told of it as it happens. */
import Router from '@koa/router';
import {
  changesQuerySchema,
  CLASHES_TOLD,
  editRequestSchema,
  eventsQuerySchema,
  isAllStorable,
  undoRequestSchema,
  type Change,
  type ChangeList,
  type ChangesQuery,
  type Clash,
  type EditDone,
  type EditRequest,
  type EventsQuery,
  type RowHistory,
  type UndoRequest,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import { CannotEdit, CannotUndo, CellClash, KeyTaken } from '../data/refusals.js';
import type { Access } from '../access/access.js';
import { roleOf } from '../access/scopes.js';
import { whoIs } from '../access/principal.js';
import type { RouteData } from '../data/data.js';
import type { Follower } from '../live/follower.js';
import { beginsEvents, endsWhenNotAllowed } from './event-stream.js';
import { noChange, noTable, tableOf, type AskedTable } from './found.js';
import { idOf } from './ids.js';
import { HttpProblem } from './http-problem.js';
import { bodyOf, queryOf } from './validate.js';

const editRequest = bodyOf<EditRequest>(editRequestSchema);
const undoRequest = bodyOf<UndoRequest>(undoRequestSchema);
const changesQuery = queryOf<ChangesQuery>(changesQuerySchema);
const eventsQuery = queryOf<EventsQuery>(eventsQuerySchema);
/** Rows of one change that are shown. */
const SHOWN = 200;
/** Changes of one row that are told. */
const ROW_HISTORY = 100;

/** The problem of an edit whose cells or rows are not what its keeper saw. */
export function clashing(clashes: readonly Clash[]): HttpProblem {
  const told = { clashes: clashes.slice(0, CLASHES_TOLD), clashing: clashes.length };
  return new HttpProblem(409, 'Someone changed this in the meantime', new CellClash(clashes).message, {}, told);
}

/** Reads an edit. @throws HttpProblem where it cannot be written whatever the table is */
export function editOf(body: unknown): EditRequest {
  const request = editRequest(body);
  if (!isAllStorable(request)) throw new HttpProblem(422, 'A cell holds a character that cannot be kept');
  const width = request.columns.length;
  const rows = [...(request.changed ?? []).flatMap(({ was, now }) => [was, now]), ...(request.added ?? [])];
  if (rows.some((cells) => cells.length > width)) throw new HttpProblem(422, 'There are more cells than columns');
  return request;
}

/** Does an edit within a scope, and tells everybody of it. @throws HttpProblem */
export async function edited(
  { records }: Pick<RouteData, 'records'>,
  follower: Follower,
  { table, scope }: AskedTable,
  request: EditRequest,
): Promise<EditDone> {
  const made = await records.edit(scope, table, request).catch((error: unknown) => {
    throw refusedEdit(error);
  });
  if (!made) throw noTable(table.id);
  const { change, at } = made;
  if (change) await follower.made(change);
  const added = (change?.rowChanges ?? []).filter(({ before }) => before === null).map((row) => row.id);
  return { change: at, at: change?.at ?? new Date().toISOString(), added };
}

/** Makes an edit that cannot be done a problem that says why. */
function refusedEdit(error: unknown): unknown {
  if (error instanceof CellClash) return clashing(error.clashes);
  if (error instanceof KeyTaken) return new HttpProblem(409, 'This key was used before', error.message);
  if (error instanceof CannotEdit) return new HttpProblem(422, 'This cannot be written', error.message);
  return error;
}

export function changeRoutes({ tables, records }: RouteData, follower: Follower, access: Access): Router {
  const router = new Router({ prefix: '/api/tables/:id' });
  const find = (ctx: Context): Promise<AskedTable> => tableOf(ctx, tables);

  router.post('/changes', async (ctx) => {
    const found = await find(ctx);
    const request = editOf(ctx.request.body);
    ctx.body = await edited({ records }, follower, found, { ...request, who: whoIs(ctx.req, request.who) });
  });

  router.get('/changes', async (ctx) => {
    const { after, before, limit, brief } = changesQuery(ctx.query);
    const { table, scope } = await find(ctx);
    const found = brief
      ? await records.history(scope, table, before, limit)
      : await records.log(scope, table, after, limit);
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = { changes: found } satisfies ChangeList;
  });

  router.get('/changes/:number', async (ctx) => {
    const { table, scope } = await find(ctx);
    const change = await records.change(scope, table, idOf(ctx, 'change', 'number'), SHOWN);
    if (!change) throw noChange();
    ctx.body = change;
  });

  router.get('/rows/:row/history', async (ctx) => {
    const { table, scope } = await find(ctx);
    const entries = await records.rowHistory(scope, table, idOf(ctx, 'row', 'row'), ROW_HISTORY);
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = { entries } satisfies RowHistory;
  });

  router.post('/changes/:number/undo', async (ctx) => {
    const number = idOf(ctx, 'change', 'number');
    const { who, part, key } = undoRequest(ctx.request.body ?? {});
    if (!isAllStorable({ who })) throw new HttpProblem(422, 'The name holds a character that cannot be kept');
    const { table, scope } = await find(ctx);
    const change = await records
      .undo(scope, table, number, { who: whoIs(ctx.req, who), part, key })
      .catch((error: unknown) => {
        if (!(error instanceof CannotUndo)) throw refusedEdit(error);
        throw new HttpProblem(409, 'This cannot be undone any more', error.message, {}, { part: error.part });
      });
    if (!change) throw noChange();
    await follower.made(change);
    ctx.body = { ...change, rowChanges: null } satisfies Change;
  });

  router.get('/events', async (ctx) => {
    const { after, who } = eventsQuery(ctx.query);
    const { table } = await find(ctx);
    const last = Number(ctx.get('Last-Event-ID') || NaN);
    if (!beginsEvents(ctx)) return;
    endsWhenNotAllowed(ctx, access, (principal) => roleOf(principal, table.id));
    await follower.open(
      table.id,
      whoIs(ctx.req, who?.trim()) ?? null,
      ctx.res,
      Number.isSafeInteger(last) && last >= 0 ? last : after,
    );
  });

  return router;
}
