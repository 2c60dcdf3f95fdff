/** Versions as entity tags: what may be edited carries one, and an edit names the one it was made on (RFC 9110, 13.1.1). */
import type { Context } from 'koa';
import type { Versions } from '../data/versions.js';
import { HttpProblem } from './http-problem.js';

/** Versions that one request may name. */
const MOST = 20;

export function setVersion(ctx: Context, version: number): void {
  ctx.set('ETag', `"${version}"`);
  ctx.set('Cache-Control', 'no-cache');
}

/**
 * The versions that an edit may have been made on: `*` is any. A weak tag, or one that is no version of ours, matches none.
 * @throws HttpProblem 428 if the request does not say, 400 if it says it in a way that cannot be read
 */
export function versionsOf(ctx: Context): Versions {
  const header = ctx.get('If-Match').trim();
  if (header === '') {
    const detail = 'The request needs an If-Match with the ETag it goes by.';
    throw new HttpProblem(428, 'Say which version this changes', detail);
  }
  if (header === '*') return 'any';
  const tags = header.split(',').map((tag) => tag.trim());
  if (tags.length > MOST || !tags.every((tag) => /^(?:W\/)?"[^"]*"$/.test(tag)))
    throw new HttpProblem(400, 'The If-Match cannot be read', 'It is to be a list of ETags, each in quotes.');
  return tags.flatMap((tag) => /^"(\d{1,9})"$/.exec(tag)?.[1] ?? []).map(Number);
}

export function clash(what: string): HttpProblem {
  const detail = 'Nothing was overwritten. Reload to see it as it is now.';
  return new HttpProblem(412, `Somebody changed this ${what} in the meantime`, detail);
}
