/** /api/tables/:id/columns: columns that are added, changed, put in order and removed, and their values renamed. */
import Router from '@koa/router';
import {
  columnAt,
  columnChangeSchema,
  columnsRequestSchema,
  isAllStorable,
  presentPlaces,
  valueChangeSchema,
  type Column,
  type ColumnChange,
  type ColumnsRequest,
  type ValueChange,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import { CannotEdit } from '../data/refusals.js';
import { principalOf, whoIs } from '../access/principal.js';
import { seenTable } from '../access/seen.js';
import type { RouteData } from '../data/data.js';
import type { Follower } from '../live/follower.js';
import { lenderOf, withBorrowed } from './borrowing.js';
import { freeName, withColumn } from './new-columns.js';
import { tableOf, type AskedTable } from './found.js';
import { bodyOf } from './validate.js';
import { clash, setVersion, versionsOf } from './versions.js';
import { HttpProblem } from './http-problem.js';

const columnChange = bodyOf<ColumnChange>(columnChangeSchema);
const columnsRequest = bodyOf<ColumnsRequest>(columnsRequestSchema);
const valueChange = bodyOf<ValueChange>(valueChangeSchema);

/** Former names that are kept of one column. */
const FORMER = 100;

/** The columns once one of them is changed; null takes a setting away. @throws HttpProblem if that cannot be */
function changedColumns(columns: readonly Column[], change: ColumnChange): Column[] {
  const column = columns.find(({ name, removed }) => name === change.name && !removed);
  if (!column) throw new HttpProblem(404, 'There is no such column');
  if (change.removed) return removed(columns, column);
  const others = columns.filter((one) => one !== column);
  return columns.map((one) => (one === column ? changed(others, column, change) : one));
}

function changed(others: readonly Column[], before: Column, change: ColumnChange): Column {
  const { shown, order, rename } = change;
  const column = ofKind(before, change);
  const { shown: shownNow, order: orderNow, ...rest } = column;
  const next = { shown: shown === undefined ? shownNow : shown, order: order === undefined ? orderNow : order };
  if (next.shown && !(column.kind in next.shown))
    throw new HttpProblem(422, 'The column cannot be shown so', `${column.name} holds ${column.kind}.`);
  return {
    ...rest,
    ...(rename !== undefined && renamed(others, column, rename)),
    ...(next.shown && { shown: next.shown }),
    ...(next.order && { order: next.order }),
  };
}

/** Makes a column one of another kind: what only the kind before had a use for goes; the cells stay. */
function ofKind(column: Column, { kind = column.kind, dateOrder, decimal }: ColumnChange): Column {
  const { name, formerly, shown, order, place, borrows } = column;
  const same = kind === column.kind;
  const reads = kind === 'date' ? (dateOrder ?? (same ? column.dateOrder : undefined)) : undefined;
  const sign = kind === 'number' ? (decimal ?? (same ? column.decimal : undefined)) : undefined;
  return {
    name,
    ...(formerly && { formerly }),
    kind,
    ...(borrows && { borrows }),
    ...(place !== undefined && { place }),
    ...(reads && { dateOrder: reads }),
    ...(sign && { decimal: sign }),
    ...(same && shown && { shown }),
    ...(same && order && { order }),
  };
}

/** The old name goes on finding the column, until another takes it. */
function renamed(others: readonly Column[], column: Column, given: string): Pick<Column, 'name' | 'formerly'> {
  const name = freeName(others, given);
  const formerly = [column.name, ...(column.formerly ?? [])].filter((one) => one !== name);
  return { name, formerly: [...new Set(formerly)].slice(0, FORMER) };
}

function removed(columns: readonly Column[], column: Column): Column[] {
  if (presentPlaces(columns).length === 1) throw new HttpProblem(422, 'One column always stays');
  return columns.map((one) => (one === column ? { ...one, removed: true } : one));
}

/** The columns with one more, blank in all rows; or as they are to stand. @throws HttpProblem if that cannot be */
function arrangedColumns(columns: readonly Column[], request: Exclude<ColumnsRequest, { borrow: unknown }>): Column[] {
  if ('add' in request) {
    const { kind } = request.add;
    return withColumn(columns, { name: freeName(columns, request.add.name), kind });
  }
  const { order } = request;
  const rank = (at: number): number => {
    const named = order.indexOf(columns[at].name);
    return named < 0 ? order.length : named;
  };
  const places = presentPlaces(columns).sort((a, b) => rank(a) - rank(b));
  return columns.map((one, at) => (one.removed ? one : { ...one, place: places.indexOf(at) }));
}

export function columnRoutes({ tables, boxes, records }: RouteData, follower: Follower): Router {
  const router = new Router({ prefix: '/api/tables/:id/columns' });

  const find = (ctx: Context): Promise<AskedTable> => tableOf(ctx, tables);
  const storable = (value: unknown): void => {
    if (!isAllStorable(value)) throw new HttpProblem(422, 'The change holds a character that cannot be kept');
  };
  const edit = async (ctx: Context, to: (columns: readonly Column[]) => Column[], who?: string): Promise<void> => {
    const versions = versionsOf(ctx);
    const { table, scope } = await find(ctx);
    const done = await records.changeColumns(scope, table, versions, to, who);
    if (!done) throw clash('table');
    await follower.made(done);
    const { table: changed } = await find(ctx);
    setVersion(ctx, changed.version);
    ctx.body = seenTable(changed, scope);
  };

  router.patch('/', async (ctx) => {
    const change = columnChange(ctx.request.body);
    storable(change);
    await edit(ctx, (columns) => changedColumns(columns, change), whoIs(ctx.req, change.who));
  });

  router.post('/', async (ctx) => {
    const request = columnsRequest(ctx.request.body);
    storable(request);
    if ('borrow' in request) {
      const { table: own } = await find(ctx);
      const lender = await lenderOf(tables, own, request.borrow, principalOf(ctx.req));
      await edit(ctx, (columns) => withBorrowed(columns, own, lender, request.borrow), whoIs(ctx.req, request.who));
    } else await edit(ctx, (columns) => arrangedColumns(columns, request), whoIs(ctx.req, request.who));
  });

  router.post('/values', async (ctx) => {
    const change = valueChange(ctx.request.body);
    storable(change);
    const { table, scope } = await find(ctx);
    const { id, columns } = table;
    const done = await records
      .changeValue(scope, table, { ...change, who: whoIs(ctx.req, change.who) })
      .catch((error: unknown) => {
        throw error instanceof CannotEdit ? new HttpProblem(422, 'This cannot be written', error.message) : error;
      });
    if (!done) throw new HttpProblem(404, 'There is no such value');
    await follower.made(done);
    await boxes.renameValue(id, columns[columnAt(columns, change.column)], change);
    ctx.body = { ...done, rowChanges: null };
  });

  return router;
}
