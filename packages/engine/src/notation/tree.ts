/** The tree that a strand's text is parsed to. Parsing makes it; the search evaluates it; nothing else looks at the text. */
import type { FoldSetting } from '../text/index.js';

export type TextReading = 'words' | 'plain text' | 'wildcards' | 'pattern';
export type Need = 'every word' | 'any word';
export type Where =
  'anywhere' | 'start of a word' | 'whole word' | 'start of the cell' | 'end of the cell' | 'whole cell';

/** How typed text is read: the settings of a box that bear on matching. */
export interface Settings extends FoldSetting {
  readonly need: Need;
  readonly where: Where;
}

export const DEFAULT_SETTINGS: Settings = {
  need: 'every word',
  where: 'anywhere',
  case: 'ignore',
  accents: 'ignore',
};

/** Stands for exactly one character in a wildcard's template. A noncharacter, so no text contains it. */
export const ONE_CHARACTER = '\ufdd0';
/** Stands for any run of characters, also none, in a wildcard's template. */
export const ANY_RUN = '\ufdd1';

/** An interval of numbers or day numbers; a bound left out is open. Bounds are inclusive unless said. */
export interface Interval {
  readonly low?: number;
  readonly high?: number;
  readonly aboveLow?: boolean;
  readonly belowHigh?: boolean;
}

/** An interval of texts, in sorting order. */
export interface TextInterval {
  readonly low?: string;
  readonly high?: string;
  readonly aboveLow?: boolean;
  readonly belowHigh?: boolean;
}

/** A condition on one cell. Texts are as typed, with escapes taken away; folding is for whoever compiles them. */
export type Term =
  | { readonly type: 'text'; readonly text: string; readonly where: Where }
  | { readonly type: 'wildcard'; readonly template: string; readonly where: Where }
  | { readonly type: 'near'; readonly word: string }
  | { readonly type: 'pattern'; readonly source: string }
  | { readonly type: 'blank' }
  | { readonly type: 'filled' }
  | { readonly type: 'interval'; readonly interval: Interval }
  | { readonly type: 'text interval'; readonly interval: TextInterval }
  | { readonly type: 'nothing' };

export type Node =
  | {
      readonly type: 'hit';
      readonly term: Term;
      readonly columns: readonly number[] | undefined;
      readonly keyword: number;
    }
  | { readonly type: 'all'; readonly of: readonly Node[] }
  | { readonly type: 'any'; readonly of: readonly Node[] }
  | { readonly type: 'not'; readonly of: Node };

/** A keyword of a strand, with the place where it stands in the strand's text. */
export interface Keyword {
  /** The keyword's number, from 1 in order of appearance; 0 for one that is asked to be absent, which draws no marks. */
  readonly number: number;
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

/**
 * The cause of a notice: a name that is no column's; a value that its column's kind cannot read; a sign that was taken in
 * another way than it may have been meant; or a limit, or a pattern that cannot be read, because of which there is no answer.
 */
export type NoticeKind = 'name' | 'value' | 'sign' | 'refused';

/** Something a person should know about what they typed; UTF-16 offsets into the strand's text. */
export interface Notice {
  readonly kind: NoticeKind;
  readonly message: string;
  readonly start: number;
  readonly end: number;
  /** The text that may have been meant in place of the text from `start` to `end`, if something comes to mind. */
  readonly instead?: string;
}

export interface Parsed {
  /** Undefined if the text asks nothing. */
  readonly tree: Node | undefined;
  readonly keywords: readonly Keyword[];
  readonly notices: readonly Notice[];
  /** Why the text cannot be answered at all, if so: a pattern that cannot be read, a limit. */
  readonly problem: Notice | undefined;
}
