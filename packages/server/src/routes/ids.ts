import type { Context } from 'koa';
import { HttpProblem } from './http-problem.js';

/** Largest number of a table or box that the database has. */
const LARGEST = 2_147_483_647;

/**
 * The number in an address such as /api/tables/7.
 * @throws HttpProblem 404 if it is none
 */
export function idOf(ctx: Context, what: string, parameter = 'id'): number {
  const id = (ctx as unknown as { params: Record<string, string> }).params[parameter];
  if (!/^\d{1,10}$/.test(id) || Number(id) > LARGEST) throw new HttpProblem(404, `There is no such ${what}`);
  return Number(id);
}
