/**
 * The outcome of a question, the same from the host to the route that sends it. Whoever asks a host directly takes the answer out by
 * `answerIn`; the server hands the outcome on, and only its routes make HTTP of it.
 *
 * ```
 * answered     the answer; `complete` is false while rows are still being searched
 * overtaken    a later question of the same session made this one void
 * loading      the table is there, and not whole yet
 * missing      there is no such table
 * refused      the question cannot be asked, not by this asker, or not now
 * failed       the thread that was to answer ended, or what was not foreseen happened
 * ```
 */
import { UnknownColumn, UnreadablePicker } from '@usual-needle/engine';
import { OutOfScope } from './scoped.js';

/** The table is not whole yet. */
export class StillLoading extends Error {
  constructor(readonly rowsRead: number) {
    super(`${rowsRead} rows are read so far.`);
  }
}

export type Outcome<T> =
  | { readonly is: 'answered'; readonly value: T; readonly complete: boolean }
  | { readonly is: 'overtaken' }
  /** `rows` is how many there will be, where that is known. */
  | { readonly is: 'loading'; readonly rowsRead: number; readonly rows?: number }
  | { readonly is: 'missing' }
  | { readonly is: 'refused'; readonly why: 'question' | 'scope' | 'too many'; readonly message: string }
  | { readonly is: 'failed'; readonly why: 'interrupted' | 'unforeseen'; readonly message: string };

export const OVERTAKEN = { is: 'overtaken' } as const satisfies Outcome<never>;
export const MISSING = { is: 'missing' } as const satisfies Outcome<never>;

export function answered<T>(value: T, complete = true): Outcome<T> {
  return { is: 'answered', value, complete };
}

/** The outcome of a question that cannot be asked. */
export function refusedQuestion(message: string): Outcome<never> {
  return { is: 'refused', why: 'question', message };
}

/** Runs what answers a question. Errors that can be foreseen become outcomes; others are thrown on. */
export async function outcomeOf<T>(work: () => Outcome<T> | Promise<Outcome<T>>): Promise<Outcome<T>> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof StillLoading) return { is: 'loading', rowsRead: error.rowsRead };
    if (error instanceof OutOfScope) return { is: 'refused', why: 'scope', message: error.message };
    if (error instanceof UnknownColumn || error instanceof UnreadablePicker) return refusedQuestion(error.message);
    throw error;
  }
}

/** A question got no answer, for a reason that its outcome tells. */
export class NoAnswer extends Error {
  constructor(readonly outcome: Exclude<Outcome<never>, { readonly is: 'answered' }>) {
    super('message' in outcome ? outcome.message : `The question was not answered: ${outcome.is}.`);
  }
}

/** Gives the answer of an outcome. @throws NoAnswer where it has none */
export function answerIn<T>(outcome: Outcome<T>): T {
  if (outcome.is === 'answered') return outcome.value;
  throw new NoAnswer(outcome);
}
