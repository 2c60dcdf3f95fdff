/** /api/tables/:id/rows and /copy: the rows of a table as they are stored, refreshing them from a file, and taking them out. */
import { Readable } from 'node:stream';
import Router from '@koa/router';
import {
  copyQuerySchema,
  presentPlaces,
  refreshQuerySchema,
  rowsQuerySchema,
  type Change,
  type CopyQuery,
  type Refresh,
  type RefreshedBy,
  type RefreshQuery,
  type RowList,
  type RowsQuery,
  type TableSummary,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Data } from '../data/data.js';
import { RowClash } from '../data/refusals.js';
import type { RefreshPlan } from '../imports/refresh.js';
import type { Follower } from '../live/follower.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { copyOf, type FillCells } from './copy.js';
import { noChange, noTable, tableOf } from './found.js';
import { HttpProblem } from './http-problem.js';
import { incomingOf } from './incoming.js';
import { queryOf } from './validate.js';
import { clash } from './versions.js';

const copyQuery = queryOf<CopyQuery>(copyQuerySchema);
const refreshQuery = queryOf<RefreshQuery>(refreshQuerySchema);
const rowsQuery = queryOf<RowsQuery>(rowsQuerySchema);

export function rowRoutes({ tables, changes }: Data, threads: SearchThreads, follower: Follower): Router {
  const router = new Router({ prefix: '/api/tables/:id' });

  const find = (ctx: Context): Promise<TableSummary> => tableOf(ctx, tables);

  const filled: FillCells = async ({ id, columns }, rows) => {
    const cells = rows.map((row) => row.cells);
    return columns.some(({ borrows }) => borrows) ? ((await threads.questions.filledCells(id, cells)) ?? cells) : cells;
  };

  router.get('/rows', async (ctx) => {
    const { after, limit } = rowsQuery(ctx.query);
    const table = await find(ctx);
    const found = await tables.rows(table.id, after, limit);
    // Rows of before a column was added are without its cell.
    const places = presentPlaces(table.columns);
    const cells = await filled(table, found);
    const whole = (one: readonly string[]): string[] => places.map((i) => one[i] ?? '');
    ctx.body = { rows: found.map((row, i) => ({ ...row, cells: whole(cells[i]) })) } satisfies RowList;
  });

  router.put('/rows', async (ctx) => {
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

  router.get('/copy', async (ctx) => {
    const asked = copyQuery(ctx.query);
    const { at } = asked;
    const table = await find(ctx);
    if (at !== undefined && at > table.change) throw noChange();
    const then = at !== undefined && at < table.change;
    ctx.attachment(`${table.name}${then ? `, change ${at}` : ''}.csv`);
    ctx.type = 'text/csv; charset=utf-8';
    ctx.body = Readable.from(copyOf(tables, table, filled, asked));
  });

  return router;
}
