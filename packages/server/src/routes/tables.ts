/** /api/tables: what there is, bringing one in, its rows, and searching it. */
import Router from '@koa/router';
import {
  bringInQuerySchema, explainRequestSchema, nextRequestSchema, offersRequestSchema, rowsQuerySchema, searchRequestSchema,
  type BringInQuery, type ExplainRequest, type NextRequest, type OffersRequest, type RowsQuery, type SearchRequest, type Shelf,
  type TableSummary,
} from '@usual-needle/contract'; // prettier-ignore
import type { AnySchema } from 'ajv';
import type { Context } from 'koa';
import type { Records } from '../data/records.js';
import type { Engine } from '../engine/engine.js';
import { bringIn } from '../imports/bring-in.js';
import { idOf } from './ids.js';
import { HttpProblem } from './problems.js';
import { readText } from './read-text.js';
import { bodyOf, queryOf } from './validate.js';

const bringInQuery = queryOf<BringInQuery>(bringInQuerySchema);
const rowsQuery = queryOf<RowsQuery>(rowsQuerySchema);
const searchRequest = bodyOf<SearchRequest>(searchRequestSchema);

export function tableRoutes(records: Records, engine: Engine): Router {
  const router = new Router({ prefix: '/api/tables' });

  const find = async (ctx: Context): Promise<TableSummary> => {
    const table = await records.findTable(idOf(ctx, 'table'));
    if (!table) throw new HttpProblem(404, 'There is no such table');
    return table;
  };

  router.get('/', async (ctx) => {
    const [tables, boxes] = [await records.listTables(), await records.listBoxes()];
    ctx.body = { tables, boxes } satisfies Shelf;
  });

  router.post('/', async (ctx) => {
    const { name } = bringInQuery(ctx.query);
    const id = await bringIn(records, name, await readText(ctx.req));
    const table = (await records.findTable(id))!;
    await engine.load(table);
    ctx.status = 201;
    ctx.set('Location', `/api/tables/${id}`);
    ctx.body = table;
  });

  router.get('/:id', async (ctx) => {
    ctx.body = await find(ctx);
  });

  router.get('/:id/rows', async (ctx) => {
    const { after, limit } = rowsQuery(ctx.query);
    const table = await find(ctx);
    ctx.body = { rows: await records.readRows(table.id, after, limit) };
  });

  router.post('/:id/search', async (ctx) => {
    const request = searchRequest(ctx.request.body);
    const answer = await engine.search(idOf(ctx, 'table'), request);
    if (answer === undefined) throw new HttpProblem(404, 'There is no such table');
    ctx.type = 'json';
    ctx.body = answer;
  });

  /** Routes that ask the engine about a question and send what it says. */
  const about = <T>(
    path: string,
    schema: AnySchema,
    ask: (id: number, request: T) => Promise<object | undefined>,
  ): void => {
    const body = bodyOf<T>(schema);
    router.post(`/:id/${path}`, async (ctx) => {
      const answer = await ask(idOf(ctx, 'table'), body(ctx.request.body));
      if (answer === undefined) throw new HttpProblem(404, 'There is no such table');
      ctx.body = answer;
    });
  };
  about<ExplainRequest>('explain', explainRequestSchema, (id, request) => engine.explain(id, request));
  about<OffersRequest>('offers', offersRequestSchema, (id, request) => engine.offers(id, request));
  about<NextRequest>('next', nextRequestSchema, (id, request) => engine.next(id, request));

  return router;
}
