import type { Context } from 'koa';
import { HttpProblem } from './problems.js';

/**
 * The number in an address such as /api/tables/7.
 * @throws HttpProblem 404 if it is none
 */
export function idOf(ctx: Context, what: string): number {
  const { id } = (ctx as unknown as { params: { id: string } }).params;
  if (!/^\d{1,9}$/.test(id)) throw new HttpProblem(404, `There is no such ${what}`);
  return Number(id);
}
