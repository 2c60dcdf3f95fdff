/** Finding the box that an address of readers names, and the answer where it opens none. */
import type { Context } from 'koa';
import { principalOf } from '../access/principal.js';
import type { ReadersBox, SharedBoxes } from '../access/shared-boxes.js';
import { HttpProblem, NotThere } from './http-problem.js';

/** Gives the slug in an address. */
export function slugIn(ctx: Context): string {
  return (ctx as Context & { params: Record<string, string> }).params['slug'];
}

/** @throws HttpProblem 404, in the same words whatever the reason; 401 for a number, which opens for who is signed in */
export async function readersBoxOf(ctx: Context, shared: SharedBoxes): Promise<ReadersBox> {
  const slug = slugIn(ctx);
  const principal = principalOf(ctx.req);
  const found = await shared.open(slug, principal);
  if (found) return found;
  if (/^\d+$/.test(slug) && principal.is === 'nobody')
    throw new HttpProblem(401, 'Sign in first', 'This address opens for people who are signed in.');
  throw new NotThere('box');
}
