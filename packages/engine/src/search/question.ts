/** A question to a table: the strands of a box with the text typed into them, and how the box reads it. */
import type { SortLevel } from '../order/index.js';
import { DEFAULT_SETTINGS, type TextReading, type Settings } from '../notation/index.js';
import type { Picker } from './matchers/picker-matchers.js';

export type Verb = 'find' | 'plus' | 'minus' | 'within';
export type Effect = 'show only matches' | 'mark in place' | 'leave matches out';

export interface Strand {
  readonly verb: Verb;
  readonly text: string;
  readonly reading: TextReading;
}

export interface Question {
  /** Numbers of the threaded columns. */
  readonly threaded: readonly number[];
  readonly settings: Settings;
  readonly strands: readonly Strand[];
  readonly pickers: readonly Picker[];
  readonly effect: Effect;
  /** The rows shown while nothing is typed: every row, or none. */
  readonly nothingTyped: 'every row' | 'no row';
  /** Swap the rows on show for those left out. */
  readonly flip: boolean;
  /** Levels of sorting; none for the table's own order. */
  readonly sort: readonly SortLevel[];
  /** Columns that a scope or comparison may name; all, if not said. */
  readonly visible?: readonly number[];
  /** True where no row exists for the answer. */
  readonly noRow?: boolean;
  /** Strands that are always asked besides: rows that one of them does not leave do not exist for the answer. */
  readonly locked?: Pick<Question, 'threaded' | 'settings' | 'strands'>;
}

/** A question that asks nothing of the given columns: the start to build others from. */
export function blankQuestion(threaded: readonly number[]): Question {
  return {
    threaded,
    settings: DEFAULT_SETTINGS,
    strands: [{ verb: 'find', text: '', reading: 'words' }],
    pickers: [],
    effect: 'show only matches',
    nothingTyped: 'every row',
    flip: false,
    sort: [],
  };
}
