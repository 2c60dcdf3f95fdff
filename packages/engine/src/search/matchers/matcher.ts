/**
 * A matcher answers one term about one cell: does it hit, and where. It is the definition of a term's meaning; the index
 * only spares it cells that cannot hit.
 */
import type { Steps } from '../../steps.js';
import type { Cell, ColumnSegment, Judging, RowSet, WholeBytes } from '../../store/index.js';
import type { Span } from '../../text/index.js';

/** The vocabulary's word on a term, before any cell is looked at. */
export interface Filter {
  /** Groups of pieces, loosely folded and without spaces: within tokens, a hit must contain one piece of each group. */
  readonly pieces: readonly (readonly string[])[];
  /** True if a row whose tokens contain the one piece is a hit for certain, so that no cell needs looking at. */
  readonly exact: boolean;
}

/** The filter of a matcher about which the vocabulary can say nothing. */
export const NO_FILTER: Filter = { pieces: [], exact: false };

/** How the hits of a matcher lie among those of matchers whose keys are beginnings of its own. */
export interface Growth {
  /** Beginnings of the key from this length on: each is of one that hits all ASCII cells that this one hits. */
  readonly from: number;
  /** Whether the beginning of that length hits all others, too. */
  readonly holds: (length: number) => boolean;
}

export interface Matcher {
  /** The matcher's name, the same for matchers that answer alike; answers are remembered by it. */
  readonly key: string;
  /** Absent if nothing can be said. */
  readonly growth?: Growth;
  readonly filter: Filter;
  test(cell: Cell): boolean;
  /**
   * Does what `test` does, of the distinct values of a column: for matchers that can do without cells.
   * @param asked 1 for each value that is asked; those that do not hit become 0
   */
  judge?(column: ColumnSegment, asked: WholeBytes): void;
  /** Whether all values of a column are sooner judged than those looked for by the filter. */
  judgesAll?(column: ColumnSegment): boolean;
  /**
   * Rows by an index of the matcher's own, in place of the filter; the set may be the index's own.
   * @param judging for those values that have to be asked: one that was stopped goes on
   */
  indexedRows?(column: ColumnSegment, judging: Judging): RowSet | undefined;
  /** Hits as UTF-16 ranges of the shown text, in order, not overlapping, none empty. */
  spans(cell: Cell): Span[];
  /** Does what `spans` does, in steps: of a matcher that may take long over one cell. */
  spanSteps?(cell: Cell): Steps<Span[]>;
}

/** Asks values one by one. @param asked see `Matcher.judge` */
export function judgeEach(asked: Uint8Array, test: (value: number) => boolean): void {
  for (let value = 0; value < asked.length; value++) if (asked[value] !== 0 && !test(value)) asked[value] = 0;
}
