import {
  catchError,
  type MonoTypeOperatorFunction,
  type Observable,
  of,
  type OperatorFunction,
  pipe,
  switchMap,
} from 'rxjs';
import { retry, timer } from 'rxjs';
import { mayPass } from '../common/error-words';

/** The outcome of one question: its answer, or why there is none. */
type LatestOutcome<Q, A> =
  { readonly question: Q; readonly answer: A } | { readonly question: Q; readonly error: unknown };

/**
 * Asks for each question, and forgets the one before: an answer never comes after a newer question's, and a question
 * given up is given up at the server too.
 *
 * ```
 * questions  -a-b---c-----
 * answers    ----B-----C--      (A was given up when b came)
 * ```
 */
export function latest<Q, A>(ask: (question: Q) => Observable<A>): OperatorFunction<Q, LatestOutcome<Q, A>> {
  return switchMap((question) =>
    ask(question).pipe(
      switchMap((answer) => of({ question, answer })),
      catchError((error: unknown) => of({ question, error })),
    ),
  );
}

/** Tries again where trying again can help. */
export function patiently<T>(attempts = 3, delayMs = 400): MonoTypeOperatorFunction<T> {
  return pipe(
    retry({
      count: attempts,
      delay: (error: unknown, attempt) => {
        if (!mayPass(error)) throw error;
        return timer(delayMs * 2 ** (attempt - 1));
      },
    }),
  );
}
