/**
 * A matcher answers one term about one cell: does it hit, and where. It is the definition of a term's meaning; the index
 * only spares it cells that cannot hit.
 */
import type { Bits, Cell, ColumnSegment, TextPool } from '../store/index.js';
import type { Span } from '../text/index.js';

/** What the vocabulary can say about a term before any cell is looked at. */
export interface Filter {
  /** Groups of pieces, loosely folded and without spaces: within tokens, a hit must contain one piece of each group. */
  readonly pieces: readonly (readonly string[])[];
  /** True if a row whose tokens contain the one piece is a hit for certain, so that no cell needs looking at. */
  readonly exact: boolean;
}

export interface Matcher {
  /** The same for matchers that answer alike; names remembered answers. */
  readonly key: string;
  readonly filter: Filter;
  test(cell: Cell): boolean;
  /** As `test`, of a distinct value where it lies: for matchers that can do without a cell. */
  testValue?(column: ColumnSegment, code: number): boolean;
  /**
   * Whether a folded token hits by itself. Then so does every cell that holds it, if the cell is plain (see
   * `ColumnSegment.plainRows`), and need not be looked at. Left out where that does not follow.
   */
  testToken?(token: string): boolean;
  /** As `testToken`, of a whole vocabulary at once: the numbers of the tokens that do. */
  tokensThatHit?(tokens: TextPool): number[];
  /**
   * Verdicts on all distinct values at once: for matchers that read them where they lie.
   * @param wanted 1 for each value to be asked; all, if not given
   */
  verdicts?(column: ColumnSegment, wanted?: Uint8Array): Uint8Array;
  /** Rows by an index of the matcher's own, in place of the filter; the set may be the index's own. */
  indexedRows?(column: ColumnSegment): Bits | undefined;
  /** Hits as UTF-16 ranges of the shown text, in order, not overlapping, none empty. */
  spans(cell: Cell): Span[];
}
