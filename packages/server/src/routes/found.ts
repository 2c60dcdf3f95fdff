/** What an address names, and what is said where it is not there. */
import { LARGEST_NUMBER, type TableSummary } from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Tables } from '../data/tables.js';
import { idOf } from './ids.js';
import { HttpProblem, NotThere } from './http-problem.js';

/** Tables as they were are held for a while only. */
const PUT_AWAY = 'The table as it was has been put away meanwhile. Reload this page to have it read again.';

/** @param id the number that it was asked by */
export const noTable = (id: number): NotThere => new NotThere('table', id > LARGEST_NUMBER ? PUT_AWAY : undefined);

export const noChange = (): HttpProblem => new HttpProblem(404, 'There is no such change');

/** @throws HttpProblem 404 if there is none */
export async function tableOf(ctx: Context, tables: Tables): Promise<TableSummary> {
  const id = idOf(ctx, 'table');
  const table = await tables.find(id);
  if (!table) throw noTable(id);
  return table;
}
