/** The log of one request: each of its lines has the id that the answer carries. */
import type { Context } from 'koa';
import type { Logger } from 'pino';

const LOGS = new WeakMap<object, Logger>();

export function setLog(ctx: Context, log: Logger): void {
  LOGS.set(ctx.req, log);
}

/** The log of the request that is answered. */
export function logOf(ctx: Context): Logger {
  return LOGS.get(ctx.req)!;
}
