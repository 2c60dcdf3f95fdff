/** The routes that tell what a table may borrow from others, before it does: /api/tables/:id/lenders and …/pairing. */
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
import { principalOf, type Principal } from '../access/principal.js';
import { roleOf, scopeOf } from '../access/scopes.js';
import type { RouteData } from '../data/data.js';
import type { Tables } from '../data/tables.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { tableOf } from './found.js';
import { idOf } from './ids.js';
import { HttpProblem } from './http-problem.js';
import { answerOf } from './outcomes.js';
import { freeName, isTaken, withColumn } from './new-columns.js';
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

/** The table that a pairing names. @throws HttpProblem if there is none, or it is the one that borrows */
export async function lenderOf(
  tables: Pick<Tables, 'find'>,
  own: TableSummary,
  { table }: Pairing,
  principal: Principal,
): Promise<TableSummary> {
  const lender = await tables.find(table);
  // Nobody borrows what they may not see.
  if (!lender || !roleOf(principal, table)) throw new HttpProblem(422, 'There is no such table to borrow from');
  if (lender.id === own.id) throw new HttpProblem(422, 'A table borrows from another table, not from itself');
  return lender;
}

/** A pairing by the present names of its columns. @throws HttpProblem if one is not there, or is borrowed itself */
function paired(own: TableSummary, lender: TableSummary, { key, matches }: Pairing): Pairing {
  return {
    table: lender.id,
    key: ownColumn(own.columns, key, own.name).name,
    matches: ownColumn(lender.columns, matches, lender.name).name,
  };
}

/** Gives what a column is called that is borrowed: as there, if that is free here, or else with the other table's name. */
function nameOf(column: string, lender: string, columns: readonly Column[]): string {
  const names = [column, `${column}, ${lender}`.slice(0, LIMITS.name)];
  for (let i = 2; ; i++) {
    const free = names.find((name) => !isTaken(columns, name));
    if (free !== undefined) return free;
    names[0] = `${column.slice(0, LIMITS.name - 8)} ${i}`;
  }
}

/** The columns with those that are borrowed at the end. They are read and shown as where they come from. @throws HttpProblem */
export function withBorrowed(
  columns: readonly Column[],
  own: TableSummary,
  lender: TableSummary,
  { several = 'first', columns: asked, ...pairing }: BorrowRequest,
): Column[] {
  const by = paired({ ...own, columns: [...columns] }, lender, pairing);
  return asked.reduce<Column[]>(
    (next, { column, name }) => {
      const from = { ...ownColumn(lender.columns, column, lender.name) };
      delete from.formerly;
      delete from.place;
      const called = name === undefined ? nameOf(from.name, lender.name, next) : freeName(next, name);
      return withColumn(next, { ...from, name: called, borrows: { ...by, column: from.name, several } });
    },
    [...columns],
  );
}

export function borrowingRoutes({ tables }: RouteData, threads: SearchThreads): Router {
  const router = new Router({ prefix: '/api/tables/:id' });

  router.get('/lenders', async (ctx) => {
    const id = idOf(ctx, 'table');
    const principal = principalOf(ctx.req);
    const theirs = (await tables.list()).filter((table) => roleOf(principal, table.id));
    const others = theirs.map((table) => ({ id: table.id, scope: scopeOf(principal, table.id) }));
    const outcome = await threads.questions.lenders(scopeOf(principal, id), id, others);
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = answerOf(outcome, id) satisfies Lenders;
  });

  router.post('/pairing', async (ctx) => {
    const asked = pairing(ctx.request.body);
    const { table: own, scope } = await tableOf(ctx, tables);
    const lender = await lenderOf(tables, own, asked, principalOf(ctx.req));
    paired(own, lender, asked);
    const other = scopeOf(principalOf(ctx.req), lender.id);
    const outcome = await threads.questions.pairing(scope, own.id, asked, other);
    if (outcome.is === 'missing')
      throw new HttpProblem(503, 'The other table is still being read', 'Try again.', { 'Retry-After': '1' });
    ctx.body = answerOf(outcome, own.id) satisfies PairingCounts;
  });

  return router;
}
