/** The table that an address names. */
import type { TableSummary } from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Tables } from '../data/tables.js';
import { idOf } from './ids.js';
import { NotThere } from './http-problem.js';

export const noTable = (): NotThere => new NotThere('table');

/** @throws HttpProblem 404 if there is none */
export async function tableOf(ctx: Context, tables: Tables): Promise<TableSummary> {
  const table = await tables.find(idOf(ctx, 'table'));
  if (!table) throw noTable();
  return table;
}
