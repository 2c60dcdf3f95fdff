/** What a table may borrow from others, before it does: /api/tables/:id/lenders and …/pairing. */
import Router from '@koa/router';
import {
  columnAt,
  LIMITS,
  pairingSchema,
  type BorrowRequest,
  type Column,
  type Lenders,
  type Pairing,
  type PairingCounts,
  type TableSummary,
} from '@usual-needle/contract';
import { principalOf } from '../access/principal.js';
import { scopeOf } from '../access/scopes.js';
import type { Data } from '../data/data.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { noTable } from './found.js';
import { idOf } from './ids.js';
import { HttpProblem } from './http-problem.js';
import { bodyOf } from './validate.js';

const pairing = bodyOf<Pairing>(pairingSchema);

/** A column of a table's own. @throws HttpProblem for one that is not there, or is borrowed itself */
function ownColumn(columns: readonly Column[], name: string, table: string): Column {
  const at = columnAt(columns, name);
  if (at < 0) throw new HttpProblem(422, 'There is no such column', `${table} has no column “${name}”.`);
  if (columns[at].borrows)
    throw new HttpProblem(
      422,
      'A borrowed column is not lent on',
      `“${name}” is borrowed itself. Borrow it from the table that it is kept in.`,
    );
  return columns[at];
}

/** What a column is called that is borrowed: as there, if that is free here, or else with the other table's name. */
function nameOf(given: string | undefined, column: string, lender: string, taken: (name: string) => boolean): string {
  const asked = given?.trim();
  if (asked !== undefined && (asked === '' || taken(asked)))
    throw new HttpProblem(422, 'Two columns cannot have one name', `There is a column “${asked}” already.`);
  if (asked !== undefined) return asked;
  for (const name of [column, `${column}, ${lender}`.slice(0, LIMITS.name)]) if (!taken(name)) return name;
  for (let i = 2; ; i++) {
    const name = `${column.slice(0, LIMITS.name - 8)} ${i}`;
    if (!taken(name)) return name;
  }
}

/** Behind all that are there, wherever those stand. */
export function placeAtEnd(columns: readonly Column[]): Pick<Column, 'place'> {
  const place = Math.max(columns.length, ...columns.map((one, i) => (one.place ?? i) + 1));
  return place > columns.length ? { place } : {};
}

/** The columns with those that are borrowed at the end. They are read and shown as where they come from. @throws HttpProblem */
export function withBorrowed(
  columns: readonly Column[],
  own: TableSummary,
  lender: TableSummary,
  { table, key, matches, several = 'first', columns: asked }: BorrowRequest,
): Column[] {
  if (lender.id === own.id) throw new HttpProblem(422, 'A table borrows from another table, not from itself');
  const by = ownColumn(columns, key, own.name).name;
  const there = ownColumn(lender.columns, matches, lender.name).name;
  if (columns.length + asked.length > LIMITS.columns)
    throw new HttpProblem(422, 'There are too many columns', `A table takes ${LIMITS.columns}, removed ones too.`);
  const next = [...columns];
  for (const one of asked) {
    const from = { ...ownColumn(lender.columns, one.column, lender.name) };
    delete from.formerly;
    delete from.place;
    const taken = (given: string): boolean => next.some((column) => column.name === given && !column.removed);
    const name = nameOf(one.name, from.name, lender.name, taken);
    const borrows = { table, key: by, matches: there, column: from.name, several };
    next.push({ ...from, name, borrows, ...placeAtEnd(next) });
  }
  return next;
}

export function borrowingRoutes({ tables }: Data, threads: SearchThreads): Router {
  const router = new Router({ prefix: '/api/tables/:id' });

  router.get('/lenders', async (ctx) => {
    const id = idOf(ctx, 'table');
    const principal = principalOf(ctx.req);
    const others = (await tables.list()).map((table) => ({ id: table.id, scope: scopeOf(principal, table.id) }));
    const found = await threads.lenders(scopeOf(principal, id), id, others);
    if (!found) throw noTable();
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = found satisfies Lenders;
  });

  router.post('/pairing', async (ctx) => {
    const id = idOf(ctx, 'table');
    const asked = pairing(ctx.request.body);
    const [own, lender] = [await tables.find(id), await tables.find(asked.table)];
    if (!own) throw noTable();
    if (!lender) throw new HttpProblem(422, 'There is no such table to borrow from');
    if (lender.id === id) throw new HttpProblem(422, 'A table borrows from another table, not from itself');
    ownColumn(own.columns, asked.key, own.name);
    ownColumn(lender.columns, asked.matches, lender.name);
    const principal = principalOf(ctx.req);
    const counts = await threads.pairing(scopeOf(principal, id), id, asked, scopeOf(principal, lender.id));
    if (!counts)
      throw new HttpProblem(503, 'The other table is still being read', 'Try again.', { 'Retry-After': '1' });
    ctx.body = counts satisfies PairingCounts;
  });

  return router;
}
