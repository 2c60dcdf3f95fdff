/** Answers that do not end: events are written to them as they happen. */
import type { Context } from 'koa';
import { KNOWN_MS, type Access } from '../access/access.js';
import type { Principal } from '../access/principal.js';

/** Ends a stream of events within two seconds once its asker may not have it any more. */
export function endsWhenNotAllowed(ctx: Context, access: Access, isAllowed: (principal: Principal) => unknown): void {
  const look = async (): Promise<void> => {
    const allowed = await isAllowed(await access.identify(ctx.req));
    if (!allowed) ctx.res.destroy();
  };
  // A database that is away says nothing about who may do what.
  const timer = setInterval(() => void look().catch(() => undefined), KNOWN_MS);
  ctx.res.on('close', () => clearInterval(timer));
}

/** Answers HEAD, whose answer has no events and ends. @returns whether events are to be written to the response from now on */
export function beginsEvents(ctx: Context): boolean {
  if (ctx.method === 'HEAD') {
    ctx.type = 'text/event-stream';
    ctx.status = 200;
    return false;
  }
  ctx.respond = false;
  return true;
}
