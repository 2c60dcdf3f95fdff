import { DrizzleQueryError } from 'drizzle-orm';
import { stdSerializers } from 'pino';

/** Gives what is logged of an error. That of a query quotes the records that it was about, which are nobody's but their readers'. */
export function toldToLog(error: Error): unknown {
  return stdSerializers.err(error instanceof DrizzleQueryError && error.cause ? error.cause : error);
}
