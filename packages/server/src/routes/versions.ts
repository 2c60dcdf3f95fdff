/** Versions as entity tags: what may be edited carries one, and an edit names the one it was made on (RFC 9110, 13.1.1). */
import type { Context } from 'koa';
import { HttpProblem } from './problems.js';

export function setVersion(ctx: Context, version: number): void {
  ctx.set('ETag', `"${version}"`);
  ctx.set('Cache-Control', 'no-cache');
}

/**
 * The version that an edit was made on.
 * @throws HttpProblem 428 if the request does not say, or says it in a way that cannot be read
 */
export function versionOf(ctx: Context): number {
  const [, version] = /^"(\d{1,9})"$/.exec(ctx.get('If-Match').trim()) ?? [];
  if (version === undefined)
    throw new HttpProblem(
      428,
      'Say which version this changes',
      'The request needs an If-Match with the ETag it goes by.',
    );
  return Number(version);
}

export function clash(what: string): HttpProblem {
  return new HttpProblem(
    412,
    `Somebody changed this ${what} in the meantime`,
    'Nothing was overwritten. Reload to see it as it is now.',
  );
}
