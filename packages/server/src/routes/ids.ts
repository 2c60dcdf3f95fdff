import { LARGEST_NUMBER } from '@usual-needle/contract';
import type { Context } from 'koa';
import { HttpProblem } from './http-problem.js';

/**
 * The number in an address such as /api/tables/7.
 * @throws HttpProblem 404 if it is none
 */
export function idOf(ctx: Context, what: string, parameter = 'id', largest = LARGEST_NUMBER): number {
  const id = (ctx as Context & { params: Record<string, string> }).params[parameter];
  if (!/^\d{1,10}$/.test(id) || Number(id) > largest) throw new HttpProblem(404, `There is no such ${what}`);
  return Number(id);
}
