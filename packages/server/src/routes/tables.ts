/** /api/tables: what there is, bringing one in, its rows, and searching it. */
import Router from '@koa/router';
import {
  bringInQuerySchema, columnChangeSchema, explainRequestSchema, keepBoxSchema, nextRequestSchema, offersRequestSchema, rowsQuerySchema, searchRequestSchema,
  type BringInQuery, type Column, type ColumnChange, type KeepBox, type ExplainRequest, type NextRequest, type OffersRequest, type RowsQuery, type SearchRequest, type Shelf,
  type TableSummary,
} from '@usual-needle/contract'; // prettier-ignore
import type { AnySchema } from 'ajv';
import type { Context } from 'koa';
import type { Records } from '../data/records.js';
import type { Engine } from '../engine/engine.js';
import { bringIn } from '../imports/bring-in.js';
import { sendBox } from './boxes.js';
import { idOf } from './ids.js';
import { HttpProblem } from './problems.js';
import { readText } from './read-text.js';
import { bodyOf, queryOf } from './validate.js';
import { clash, setVersion, versionOf } from './versions.js';

const bringInQuery = queryOf<BringInQuery>(bringInQuerySchema);
const keepBox = bodyOf<KeepBox>(keepBoxSchema);
const columnChange = bodyOf<ColumnChange>(columnChangeSchema);
const rowsQuery = queryOf<RowsQuery>(rowsQuerySchema);
const searchRequest = bodyOf<SearchRequest>(searchRequestSchema);

/** A column with what the change says; null takes a setting away. @throws HttpProblem 422 if it does not suit the kind */
function changedColumn(column: Column, { shown, order }: ColumnChange): Column {
  const { shown: shownNow, order: orderNow, ...rest } = column;
  const next = { shown: shown === undefined ? shownNow : shown, order: order === undefined ? orderNow : order };
  if (next.shown && !(column.kind in next.shown))
    throw new HttpProblem(422, 'The column cannot be shown so', `${column.name} holds ${column.kind}.`);
  return { ...rest, ...(next.shown && { shown: next.shown }), ...(next.order && { order: next.order }) };
}

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
    const table = await find(ctx);
    setVersion(ctx, table.version);
    ctx.body = table;
  });

  router.post('/:id/boxes', async (ctx) => {
    const { box } = keepBox(ctx.request.body);
    const table = await find(ctx);
    const kept = await records.addBox(table.id, box.name, box);
    ctx.status = 201;
    ctx.set('Location', `/api/boxes/${kept.id}`);
    sendBox(ctx, kept);
  });

  router.patch('/:id/columns', async (ctx) => {
    const change = columnChange(ctx.request.body);
    const version = versionOf(ctx);
    const table = await find(ctx);
    if (!table.columns.some(({ name }) => name === change.name)) throw new HttpProblem(404, 'There is no such column');
    const columns = table.columns.map((column) =>
      column.name === change.name ? changedColumn(column, change) : column,
    );
    const changed = await records.changeColumns(table.id, version, columns);
    if (!changed) throw clash('table');
    await engine.respecify(changed);
    setVersion(ctx, changed.version);
    ctx.body = changed;
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
