/** Answers that do not end: events are written to them as they happen. */
import type { Context } from 'koa';

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
