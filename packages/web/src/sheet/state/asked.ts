/** The questions to the server, and how it is asked until all of it is known. */
import type { Box, SearchAnswer, SearchRequest } from '@usual-needle/contract';
import { EMPTY, expand, type Observable, of, timer } from 'rxjs';
import { questionOf } from '../../common/question';
import type { BoxChange } from './sheet-store';

/** Milliseconds after which an answer that is not complete shows its first rows, and between two of its further parts. */
const FIRST_MS = 40;
const GROWING_MS = 150;
/** A box that searches after a pause waits this long, in milliseconds. */
const PAUSE_MS = 350;

export interface Asked {
  readonly table: number;
  readonly request: SearchRequest;
  readonly columns: readonly string[];
  /** The question, for telling one from another; and the typed text of it. */
  readonly key: string;
  readonly text: string;
  /** Whether it stands in place of one that cannot be read, so that there are rows on show. */
  readonly instead?: true | undefined;
}

/**
 * Tells how long a change waits for what follows it: what is chosen, not at all.
 * @param now says that it need not wait any more
 */
export function patience(change: BoxChange, searches: Box['searches'], now: Observable<unknown>): Observable<unknown> {
  if (change === 'chosen' || searches === undefined || searches === 'at each keystroke') return of(0);
  return searches === 'on Enter' ? now : timer(PAUSE_MS);
}

/** A question for telling it from others. */
export function keyOf(box: Parameters<typeof questionOf>[0]): string {
  return JSON.stringify(questionOf(box));
}

/** The first rows soon, then the counts as they grow, until every row is searched. */
export function growing(search: (patience: number) => Observable<SearchAnswer>): Observable<SearchAnswer> {
  return search(FIRST_MS).pipe(
    expand(({ complete, overtaken, problem }) => (complete || overtaken || problem ? EMPTY : search(GROWING_MS))),
  );
}
