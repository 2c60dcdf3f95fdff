/** /api/tables/:id/rows and /copy: the rows of a table as they are stored, refreshing them from a file, and taking them out. */
import { Readable } from 'node:stream';
import Router from '@koa/router';
import {
  copyQuerySchema,
  refreshQuerySchema,
  rowsQuerySchema,
  type Change,
  type CopyQuery,
  type Refresh,
  type RefreshedBy,
  type RefreshQuery,
  type RowList,
  type RowsQuery,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import { principalOf, whoIs } from '../access/principal.js';
import type { Access } from '../access/access.js';
import { mayOnlyRefresh, roleOf } from '../access/scopes.js';
import { seenPlaces } from '../access/seen.js';
import type { RouteData } from '../data/data.js';
import { RowClash } from '../data/refusals.js';
import type { RefreshPlan } from '../imports/refresh.js';
import type { Follower } from '../live/follower.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { copyOf, filling } from './copy.js';
import { noChange, noTable, tableOf, type AskedTable } from './found.js';
import { HttpProblem } from './http-problem.js';
import { incomingOf } from './incoming.js';
import { queryOf } from './validate.js';
import { clash } from './versions.js';

const copyQuery = queryOf<CopyQuery>(copyQuerySchema);
const refreshQuery = queryOf<RefreshQuery>(refreshQuerySchema);
const rowsQuery = queryOf<RowsQuery>(rowsQuerySchema);

/** A refresh as it is told to who may not look at the table: how many, and no cell. */
function withoutCells(told: Refresh): Refresh {
  return { ...told, clashes: [], rows: [], unclear: { ...told.unclear, rows: [] } };
}

export function rowRoutes(
  { tables, changes, records }: RouteData,
  threads: SearchThreads,
  follower: Follower,
  access: Access,
): Router {
  const router = new Router({ prefix: '/api/tables/:id' });

  const find = (ctx: Context): Promise<AskedTable> => tableOf(ctx, tables);

  const filled = filling(threads);

  router.get('/rows', async (ctx) => {
    const { after, limit } = rowsQuery(ctx.query);
    const asked = await find(ctx);
    const { table, scope } = asked;
    const found = await records.rows(scope, table, after, limit);
    // Rows of before a column was added are without its cell.
    const places = seenPlaces(table.columns, scope);
    const cells = await filled(asked, found);
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
    const asked = await find(ctx);
    const { table, scope } = asked;
    if (on !== undefined && table.change !== on) throw clash('table');
    const { ClashesRefused, planRefresh } = await import('../imports/refresh.js');
    await changes.readyToRefresh(table.id);
    const by = { key, gone, clashes, except: new Set(except), unclear, removed, preview };
    const plan = await planRefresh(records.forRefresh(scope), table, incomingOf(ctx, how), by).catch(
      (error: unknown) => {
        if (!(error instanceof ClashesRefused)) throw error;
        const told = { clashing: error.count, clashes: isBlind(ctx) ? [] : error.clashes };
        throw new HttpProblem(409, 'The file and the table were both changed', error.message, {}, told);
      },
    );
    const columns = plan.told.matched.map(({ file, table: name }) => ({ file, table: name }));
    const isSame = plan.edits.length === 0 && !plan.columns;
    const refreshedBy = { key: [...key], gone, columns, ...(plan.tidied && { tidied: plan.tidied }) };
    const done = preview || isSame ? undefined : await refreshed(asked, plan, refreshedBy, whoIs(ctx.req, who));
    const { rows, ...counts } = plan.told;
    const told: Refresh = { ...counts, rows: preview ? rows : [], change: done?.number ?? table.change };
    ctx.body = isBlind(ctx) ? withoutCells(told) : told;
  });

  const isBlind = ({ req }: Context): boolean => mayOnlyRefresh(principalOf(req));

  const refreshed = async (
    { table, scope }: AskedTable,
    { edits, columns }: RefreshPlan,
    refreshedBy: RefreshedBy,
    who: string | undefined,
  ): Promise<Change> => {
    const change = await records
      .refresh(scope, table, edits, { who, columns, on: table.change, refreshedBy })
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
    const found = await find(ctx);
    const { table } = found;
    if (at !== undefined && at > table.change) throw noChange();
    const then = at !== undefined && at < table.change;
    ctx.attachment(`${table.name}${then ? `, change ${at}` : ''}.csv`);
    ctx.type = 'text/csv; charset=utf-8';
    const isStill = async (): Promise<boolean> => roleOf(await access.identify(ctx.req), table.id) !== undefined;
    ctx.body = Readable.from(copyOf(records, found, filled, isStill, asked));
  });

  return router;
}
