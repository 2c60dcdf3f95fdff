import type { FromSchema } from 'json-schema-to-ts';
import { questionSchema } from './box.js';
import { LARGEST } from './limits.js';

/** Most rows a window may hold. */
export const WINDOW_LIMIT = 500;

/** Rows that may stay where they were seen, or be asked after. */
export const STAYS_LIMIT = 200;

const staysSchema = {
  type: 'array',
  maxItems: STAYS_LIMIT,
  items: {
    type: 'object',
    additionalProperties: false,
    required: ['id', 'index'],
    properties: {
      id: { type: 'integer', minimum: 0, maximum: LARGEST },
      index: { type: 'integer', minimum: 0, maximum: LARGEST },
      /** True if it goes to its own place where it has one, and stays only if it has none any more. */
      moves: { type: 'boolean' },
    },
  },
} as const;

/** A search of one table: the question of a box, and the rows wanted. Columns are named, not numbered. */
export const searchRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['question'],
  properties: {
    question: questionSchema,
    /** Columns wanted of each row; all, if not said. */
    columns: { type: 'array', maxItems: 500, items: { type: 'string', maxLength: 200 } },
    offset: { type: 'integer', minimum: 0, maximum: LARGEST },
    limit: { type: 'integer', minimum: 0, maximum: WINDOW_LIMIT },
    /** True to be told counts and rows alone: no trace, and not how many rows each column and each keyword has. */
    brief: { type: 'boolean' },
    /** True to get the stored text, too, where another is shown: for who may edit it. */
    raw: { type: 'boolean' },
    /** Rows, by id, that stay at a place of the list whatever they hold by now: they were just edited there. */
    stays: staysSchema,
    /** Ids of rows whose places in the list are asked for. */
    places: { type: 'array', maxItems: 10, items: { type: 'integer', minimum: 0, maximum: LARGEST } },
    /** Ids of rows that changed lately, of which the answer says which are on show and match. */
    fresh: { type: 'array', maxItems: 1000, items: { type: 'integer', minimum: 0, maximum: LARGEST } },
    /** The name of whoever searches; of theirs, a later turn overtakes an earlier one. */
    session: { type: 'string', maxLength: 100 },
    turn: { type: 'integer', minimum: 0, maximum: LARGEST },
    /**
     * How long the asker waits, in milliseconds: then the answer goes out with what is known, `complete` or not. The same
     * request put again goes on where this one stopped. Without it the answer is complete.
     */
    patience: { type: 'integer', minimum: 0, maximum: 60000 },
  },
} as const;

export type SearchRequest = FromSchema<typeof searchRequestSchema>;

/** A stretch of a cell that a keyword hit: column (number among the columns asked for), start, end, keyword from 1. */
export type MarkTuple = readonly [column: number, start: number, end: number, keyword: number];

export interface AnswerRow {
  readonly id: number;
  /** Place in the table's own order, from 1. */
  readonly place: number;
  /** Place among all rows of the table in the order of the search, from 0: where the trace has it. */
  readonly position: number;
  readonly match: boolean;
  readonly cells: readonly string[];
  readonly marks: readonly MarkTuple[];
  /** Names of the columns that it was hit in and that are not among those asked for, if there are any. */
  readonly also?: readonly string[];
  /** Where the stored text is another than the shown one, and it was asked for: number of the column asked for, and the text. */
  readonly raw?: readonly (readonly [column: number, text: string])[];
  /** True if it is in the list only because it stays there. */
  readonly left?: boolean;
}

export interface AnswerKeyword {
  /** The number of the keyword, from 1 across all strands; 0 for one asked to be absent. */
  readonly number: number;
  readonly strand: number;
  readonly text: string;
  /** UTF-16 range in the strand's text. */
  readonly start: number;
  readonly end: number;
  /** Rows of the answer that it hits. */
  readonly rows: number;
}

/** Something that a person should know about what they typed, at letters of a strand's text. */
export interface AnswerNotice {
  readonly strand: number;
  readonly kind?: 'name' | 'value' | 'sign' | 'refused';
  readonly message: string;
  readonly start: number;
  readonly end: number;
  /** The text that may have been meant there, if something comes to mind. */
  readonly instead?: string;
}

/** Counts of the rows that a strand added, took away, and left. */
export interface AnswerStrand {
  /** False for a blank strand, which was skipped. */
  readonly asked: boolean;
  readonly added: number;
  readonly removed: number;
  readonly leaves: number;
}

export interface SearchAnswer {
  /** Rows of the whole table. */
  readonly total: number;
  /** Rows that match what was typed. */
  readonly matched: number;
  /** Rows that the pickers leave. */
  readonly narrowed: number;
  /** Rows on show. */
  readonly shown: number;
  /** Rows searched; less than the total only while an answer is still growing. */
  readonly searched: number;
  /** Number of the table's last change that this answer knows of. */
  readonly change: number;
  /** True if a strand asked something. */
  readonly asked: boolean;
  readonly complete: boolean;
  /** True if a later turn of the same session made this one void; nothing else is then to be read. */
  readonly overtaken: boolean;
  /** The rows of the answer that hit in each of the columns asked for. */
  readonly columnTallies: readonly number[];
  /** Matching rows in equal parts of the whole table, first to last; empty if nothing was asked. */
  readonly trace: readonly number[];
  /** The place in the list, for each part of the trace, of the first row on show that lies in it or after it. */
  readonly traceStarts: readonly number[];
  readonly strands: readonly AnswerStrand[];
  readonly keywords: readonly AnswerKeyword[];
  readonly notices: readonly AnswerNotice[];
  /** Why a strand cannot be answered, if so. */
  readonly problem: AnswerNotice | null;
  readonly offset: number;
  readonly rows: readonly AnswerRow[];
  /** Places in the list of the rows whose places were asked for; null for one that is not in it. */
  readonly places?: readonly (number | null)[];
  /** How many of the rows that stay would be elsewhere, or not in the list. */
  readonly misplaced?: number;
  /** The rows asked after that are on show by themselves, and match if that is asked. */
  readonly fresh?: readonly number[];
  /** Milliseconds the engine worked on it, over all requests that it took. */
  readonly milliseconds: number;
}

/** A request about a question that is not for its rows: why it finds nothing. */
/** The answer to a search that a later turn of its session made void. */
export interface OvertakenAnswer {
  readonly overtaken: true;
  readonly complete: false;
  readonly rows: readonly AnswerRow[];
  readonly notices: readonly AnswerNotice[];
  readonly problem: null;
}

export const explainRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['question'],
  properties: {
    question: questionSchema,
    /** The same as of a search: a later turn of the session makes this one void. */
    session: { type: 'string', maxLength: 100 },
    turn: { type: 'integer', minimum: 0, maximum: LARGEST },
  },
} as const;

export type ExplainRequest = FromSchema<typeof explainRequestSchema>;

/** The change of a box and its text that a remedy makes. Columns are named. */
export type WireChange =
  | {
      readonly type: 'replace';
      readonly strand: number;
      readonly start: number;
      readonly end: number;
      readonly text: string;
    }
  | { readonly type: 'thread'; readonly columns: readonly string[] }
  /** Make a picker blank. */
  | { readonly type: 'open'; readonly picker: number }
  | { readonly type: 'need any word' | 'ignore case' | 'ignore accents' | 'match anywhere' }
  | { readonly type: 'read as words' | 'read as plain text' | 'remove strand'; readonly strand: number }
  | { readonly type: 'several'; readonly of: readonly WireChange[] };

/** The kinds of reasons why nothing is found. */
export const REASON_KINDS = [
  'near spelling',
  'signs',
  'other columns',
  'unreadable',
  'picker',
  'strand',
  'case',
  'accents',
  'position',
  'reading',
  'together',
  'any word',
  'one keyword',
] as const;

export type ReasonKind = (typeof REASON_KINDS)[number];

/** A reason why nothing is found, and the way out. */
export interface WireReason {
  readonly kind: ReasonKind;
  readonly change: WireChange;
  /** Rows on show once the change is made; never 0. */
  readonly rows: number;
  /** The keyword it is about, as typed. */
  readonly keyword?: string;
  readonly strand?: number;
  /** Rows of the whole table that hold the word offered, or the keyword, in the columns named. */
  readonly found?: number;
  readonly columns?: readonly { readonly column: string; readonly rows: number }[];
  /** The word offered, the strand's text, or what could not be read. */
  readonly text?: string;
}

export interface Explanation {
  readonly reasons: readonly WireReason[];
  /** True if the session went on to ask something else before all was found out. */
  readonly overtaken: boolean;
}

/** A request for the choices that a picker on a column offers under all other conditions. */
export const offersRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['question', 'column'],
  properties: {
    question: questionSchema,
    column: { type: 'string', maxLength: 200 },
    /** Values with counts; letters that cells start with or contain; or least, most and a histogram. */
    of: { enum: ['values', 'starts', 'contains', 'range'] },
    /** Gives only values that hold this text, case and accents ignored. */
    holding: { type: 'string', maxLength: 2000 },
    /** Passes over so many of the first values. */
    offset: { type: 'integer', minimum: 0, maximum: LARGEST },
  },
} as const;

export type OffersRequest = FromSchema<typeof offersRequestSchema>;

export interface Offers {
  /** The values, at most 1,000, from the offset asked for on. */
  readonly values: readonly { readonly value: string; readonly rows: number }[];
  /** How many values there are in all, of those that hold the text asked for. */
  readonly count: number;
  /** The extent of a number or date column, as numbers or days since 1970-01-01, and rows in equal parts of it. */
  readonly range: { readonly least: number; readonly most: number; readonly bins: readonly number[] } | null;
}

/** The next or previous match from a place in the list of rows on show. */
export const nextRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['question', 'from'],
  properties: {
    question: questionSchema,
    from: { type: 'integer', minimum: -1, maximum: LARGEST },
    backwards: { type: 'boolean' },
    stays: staysSchema,
  },
} as const;

export type NextRequest = FromSchema<typeof nextRequestSchema>;

export interface NextMatch {
  /** Place in the list, from 0; null if there is none. */
  readonly index: number | null;
}
