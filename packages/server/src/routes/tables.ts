/** /api/tables: what there is, bringing one in, its rows and its log, and searching it. */
import { Readable } from 'node:stream';
import Router from '@koa/router';
import {
  bringInQuerySchema,
  copyQuerySchema,
  dependentsQuerySchema,
  earlierRequestSchema,
  explainRequestSchema,
  isAllStorable,
  isStorable,
  LARGEST_EARLIER,
  LIMITS,
  nextRequestSchema,
  presentPlaces,
  refreshQuerySchema,
  tableChangeSchema,
  offersRequestSchema,
  rowsQuerySchema,
  searchRequestSchema,
  toldTable,
  type BringInQuery,
  type CopyQuery,
  type Dependents,
  type DependentsQuery,
  type EarlierRequest,
  type Change,
  type ExplainRequest,
  type NextRequest,
  type OffersRequest,
  type Refresh,
  type RefreshedBy,
  type RefreshQuery,
  type RowList,
  type RowsQuery,
  type Scope,
  type SearchRequest,
  type Shelf,
  type TableChange,
  type TableSummary,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import { principalOf } from '../access/principal.js';
import type { Data } from '../data/data.js';
import { RowClash } from '../data/refusals.js';
import { columnsThen, rowsThen } from '../data/rows-then.js';
import { DEMO_SOURCE } from '../data/tables.js';
import type { RefreshPlan } from '../imports/refresh.js';
import type { Follower } from '../live/follower.js';
import type { Removal } from '../live/removal.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { boxOf, sendBox } from './boxes.js';
import { copyOf, type FillCells } from './copy.js';
import { dependentsOf } from './dependents.js';
import { noChange, noTable, tableOf } from './found.js';
import { idOf } from './ids.js';
import { incomingOf } from './incoming.js';
import { HttpProblem } from './http-problem.js';
import { bodyOf, queryOf } from './validate.js';
import { clash, setVersion, versionsOf } from './versions.js';

const bringInQuery = queryOf<BringInQuery>(bringInQuerySchema);
const refreshQuery = queryOf<RefreshQuery>(refreshQuerySchema);
const tableChange = bodyOf<TableChange>(tableChangeSchema);
const copyQuery = queryOf<CopyQuery>(copyQuerySchema);
const dependentsQuery = queryOf<DependentsQuery>(dependentsQuerySchema);
const earlierRequest = bodyOf<EarlierRequest>(earlierRequestSchema);
const rowsQuery = queryOf<RowsQuery>(rowsQuerySchema);
const searchRequest = bodyOf<SearchRequest>(searchRequestSchema);
const explainRequest = bodyOf<ExplainRequest>(explainRequestSchema);
const offersRequest = bodyOf<OffersRequest>(offersRequestSchema);
const nextRequest = bodyOf<NextRequest>(nextRequestSchema);

export function tableRoutes(
  { tables, boxes, changes, bringIns }: Data,
  threads: SearchThreads,
  follower: Follower,
  removal: Removal,
  offersDemo: boolean,
): Router {
  const router = new Router({ prefix: '/api/tables' });

  const find = (ctx: Context): Promise<TableSummary> => tableOf(ctx, tables);

  const filled: FillCells = async ({ id, columns }, rows) => {
    const cells = rows.map((row) => row.cells);
    return columns.some(({ borrows }) => borrows) ? ((await threads.questions.filledCells(id, cells)) ?? cells) : cells;
  };

  router.get('/', async (ctx) => {
    const deleted = [...(await tables.deleted()), ...(await boxes.deleted())];
    deleted.sort((a, b) => (a.deletedAt < b.deletedAt ? 1 : -1));
    ctx.set('Cache-Control', 'no-cache');
    const list = (await tables.list()).map(toldTable);
    const demo = (await tables.idsFrom(DEMO_SOURCE, false)).length > 0 ? 'there' : offersDemo ? 'away' : null;
    ctx.body = { tables: list, boxes: await boxes.list(), deleted, demo } satisfies Shelf;
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
    const table = await find(ctx);
    setVersion(ctx, table.version);
    ctx.body = toldTable(table);
  });

  router.patch('/:id', async (ctx) => {
    const change = tableChange(ctx.request.body);
    if (!isAllStorable(change)) throw new HttpProblem(422, 'The change holds a character that cannot be kept');
    const versions = versionsOf(ctx);
    const { id } = await find(ctx);
    const changed = await tables.describe(id, versions, { ...change, name: change.name?.trim() });
    if (!changed) throw clash('table');
    await changes.tell(id);
    follower.shelf();
    setVersion(ctx, changed.version);
    ctx.body = toldTable(changed);
  });

  router.get('/:id/dependents', async (ctx) => {
    const { column } = dependentsQuery(ctx.query);
    const { id } = await find(ctx);
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = dependentsOf(id, column, await tables.list(), await boxes.ofTable(id)) satisfies Dependents;
  });

  router.put('/:id/rows', async (ctx) => {
    const { query } = ctx;
    const listed = { key: [query['key'] ?? []].flat(), except: [query['except'] ?? []].flat() };
    const {
      key = [],
      gone,
      clashes,
      except = [],
      unclear,
      removed,
      how,
      preview,
      who,
      on,
    } = refreshQuery({ ...query, ...listed });
    const table = await find(ctx);
    if (on !== undefined && table.change !== on) throw clash('table');
    const { ClashesRefused, planRefresh } = await import('../imports/refresh.js');
    await changes.readyToRefresh(table.id);
    const by = { key, gone, clashes, except: new Set(except), unclear, removed, preview };
    const plan = await planRefresh(tables, table, incomingOf(ctx, how), by).catch((error: unknown) => {
      if (!(error instanceof ClashesRefused)) throw error;
      const told = { clashing: error.count, clashes: error.clashes };
      throw new HttpProblem(409, 'The file and the table were both changed', error.message, {}, told);
    });
    const columns = plan.told.matched.map(({ file, table: name }) => ({ file, table: name }));
    const isSame = plan.edits.length === 0 && !plan.columns;
    const refreshedBy = { key: [...key], gone, columns, ...(plan.tidied && { tidied: plan.tidied }) };
    const done = preview || isSame ? undefined : await refreshed(table, plan, refreshedBy, who);
    const { rows, ...counts } = plan.told;
    ctx.body = { ...counts, rows: preview ? rows : [], change: done?.number ?? table.change } satisfies Refresh;
  });

  const refreshed = async (
    table: TableSummary,
    { edits, columns }: RefreshPlan,
    refreshedBy: RefreshedBy,
    who: string | undefined,
  ): Promise<Change> => {
    const change = await changes
      .edit(table.id, 'refreshed', edits, { who, columns, on: table.change, refreshedBy })
      .catch((error: unknown) => {
        throw error instanceof RowClash ? clash('table') : error;
      });
    if (!change) throw noTable(table.id);
    await follower.made(change);
    return change;
  };

  router.delete('/:id', async (ctx) => {
    const id = idOf(ctx, 'table');
    if (!(await removal.remove(id))) throw noTable(id);
    ctx.status = 204;
  });

  router.post('/:id/restore', async (ctx) => {
    const table = await removal.restore(idOf(ctx, 'table'));
    if (!table) throw new HttpProblem(404, 'There is no such deleted table');
    ctx.body = toldTable(table);
  });

  router.post('/:id/boxes', async (ctx) => {
    const box = boxOf(ctx.request.body);
    const table = await find(ctx);
    const kept = await boxes.add(table.id, box.name, box);
    ctx.status = 201;
    ctx.set('Location', `/api/boxes/${kept.id}`);
    sendBox(ctx, kept);
  });

  router.get('/:id/copy', async (ctx) => {
    const asked = copyQuery(ctx.query);
    const { at } = asked;
    const table = await find(ctx);
    if (at !== undefined && at > table.change) throw noChange();
    const then = at !== undefined && at < table.change;
    ctx.attachment(`${table.name}${then ? `, change ${at}` : ''}.csv`);
    ctx.type = 'text/csv; charset=utf-8';
    ctx.body = Readable.from(copyOf(tables, table, filled, asked));
  });

  router.post('/:id/earlier', async (ctx) => {
    const { at } = earlierRequest(ctx.request.body);
    const table = await find(ctx);
    const change = at > table.change ? undefined : await tables.timeOf(table.id, at);
    if (change === undefined) throw noChange();
    if (table.rows > LIMITS.earlier)
      throw new HttpProblem(
        422,
        'This table is too large to be looked at as it was',
        `It may have ${LIMITS.earlier.toLocaleString('en')} rows. As a file it can be had at any size.`,
      );
    const columns = await columnsThen(tables, table, at);
    const { id: now, rows } = table;
    const { id } = threads.earlier.open({ now, change: at, columns, rows }, () => rowsThen(tables, now, at));
    ctx.status = 201;
    ctx.body = toldTable({
      ...table,
      id,
      now,
      columns: [...columns],
      change: at,
      changedAt: new Date(change).toISOString(),
    });
  });

  router.get('/:id/rows', async (ctx) => {
    const { after, limit } = rowsQuery(ctx.query);
    const table = await find(ctx);
    const found = await tables.rows(table.id, after, limit);
    // Rows of before a column was added are without its cell.
    const places = presentPlaces(table.columns);
    const cells = await filled(table, found);
    const whole = (one: readonly string[]): string[] => places.map((i) => one[i] ?? '');
    ctx.body = { rows: found.map((row, i) => ({ ...row, cells: whole(cells[i]) })) } satisfies RowList;
  });

  /** Routes that ask a host about a question and send what it says. */
  const about = <T>(
    path: string,
    body: (value: unknown) => T,
    ask: (scope: Scope, id: number, request: T) => Promise<object | string | undefined>,
  ): void => {
    router.post(`/:id/${path}`, async (ctx) => {
      const id = idOf(ctx, 'table', 'id', LARGEST_EARLIER);
      const request = body(ctx.request.body);
      const answer = await ask(threads.scopeFor(principalOf(ctx.req), id), id, request);
      if (answer === undefined) throw noTable(id);
      ctx.type = 'json';
      ctx.body = answer;
    });
  };
  about('search', searchRequest, (...asked) => threads.questions.search(...asked));
  about('explain', explainRequest, (...asked) => threads.questions.explain(...asked));
  about('offers', offersRequest, (...asked) => threads.questions.offers(...asked));
  about('next', nextRequest, (...asked) => threads.questions.next(...asked));

  return router;
}
