/** Finding what an address names, and the answer where it is not there. */
import { LARGEST_NUMBER, type Scope, type TableSummary } from '@usual-needle/contract';
import type { Context } from 'koa';
import { principalOf } from '../access/principal.js';
import { NO_SCOPE, scopeOf } from '../access/scopes.js';
import type { Tables } from '../data/tables.js';
import { idOf } from './ids.js';
import { HttpProblem, NotThere } from './http-problem.js';

/** Tables as they were are held for a while only. */
const PUT_AWAY = 'The table as it was has been put away meanwhile. Reload this page to have it read again.';

/** @param id the number that it was asked by */
export const noTable = (id: number): NotThere => new NotThere('table', id > LARGEST_NUMBER ? PUT_AWAY : undefined);

export const noChange = (): HttpProblem => new HttpProblem(404, 'There is no such change');

/** A table, and what of it whoever asks may see and do. */
export interface AskedTable {
  readonly table: TableSummary;
  readonly scope: Scope;
}

/** @throws HttpProblem 404 if there is none */
export async function tableOf(ctx: Context, tables: Pick<Tables, 'find'>): Promise<AskedTable> {
  const id = idOf(ctx, 'table');
  const table = await tables.find(id);
  if (!table) throw noTable(id);
  const scope = scopeOf(principalOf(ctx.req), id);
  if (scope === NO_SCOPE) throw noTable(id);
  return { table, scope };
}
