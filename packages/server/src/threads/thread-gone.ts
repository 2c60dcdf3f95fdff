/** A thread that ended before it answered, and the outcome of a question that an error has ended. */
import type { Outcome } from '@usual-needle/host';

/** The search thread that was asked has ended; another one is started in its place. */
export class ThreadGone extends Error {
  constructor() {
    super('It is started again. Try again.');
  }
}

/** Makes an error the outcome of the one question that it ended, and not of others that were put with it. */
export function failed(error: unknown): Outcome<never> {
  const why = error instanceof ThreadGone ? 'interrupted' : 'unforeseen';
  const message = error instanceof Error ? error.message : String(error);
  const stack = error instanceof Error ? error.stack : undefined;
  return { is: 'failed', why, message: why === 'unforeseen' ? (stack ?? message) : message };
}
