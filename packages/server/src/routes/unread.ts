/**
 * A refusal of a request whose body has not been read to its end. Were the connection closed at once, whoever is still sending would
 * hear of that, and not of why; were the rest left unread, the next request on the connection would never be read. So the answer
 * goes out whole, the rest is read and thrown away, and only then is the answer ended.
 */
import { once } from 'node:events';
import type { IncomingMessage } from 'node:http';
import { setTimeout } from 'node:timers/promises';
import type { Middleware } from 'koa';

/** The time that somebody who was refused may go on sending, in milliseconds. */
const LINGER_MS = 10_000;

/** Reads what is left of a body, until its end, or until that has taken too long. */
async function drain(request: IncomingMessage): Promise<void> {
  // Whoever began to read it has given up; a listener of theirs would keep it from flowing.
  request.removeAllListeners('readable');
  request.on('error', () => undefined);
  request.resume();
  const stop = new AbortController();
  const ended = ['end', 'close'].map((event) => once(request, event, { signal: stop.signal }));
  await Promise.race([...ended, setTimeout(LINGER_MS, undefined, { signal: stop.signal, ref: false })]).catch(
    () => undefined,
  );
  stop.abort();
  await Promise.allSettled(ended);
}

/** Sees to it that an error is heard, whatever of the request is unread. */
export function refusalsArrive(): Middleware {
  return async (ctx, next) => {
    await next();
    const { req, res } = ctx;
    if (ctx.status < 400 || typeof ctx.body !== 'string' || req.complete || req.destroyed || ctx.headerSent) return;
    ctx.respond = false;
    // Who waits with the body until it is asked for is not to be asked for it.
    ctx.length = Buffer.byteLength(ctx.body);
    res.statusCode = ctx.status;
    res.write(ctx.body);
    await drain(req);
    res.end();
    if (!req.complete) req.socket.destroySoon();
  };
}
