import type { FromSchema } from 'json-schema-to-ts';
import { questionSchema } from './box.js';

/** Most rows a window may hold. */
export const WINDOW_LIMIT = 500;

/** A search of one table: the question of a box, and the rows wanted. Columns are named, not numbered. */
export const searchRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['question'],
  properties: {
    question: questionSchema,
    /** Columns wanted of each row; all, if not said. */
    columns: { type: 'array', maxItems: 500, items: { type: 'string' } },
    offset: { type: 'integer', minimum: 0 },
    limit: { type: 'integer', minimum: 0, maximum: WINDOW_LIMIT },
    /** Whose search this is, and which of theirs: a later turn overtakes an earlier one. */
    session: { type: 'string', maxLength: 100 },
    turn: { type: 'integer', minimum: 0 },
  },
} as const;

export type SearchRequest = FromSchema<typeof searchRequestSchema>;

/** A stretch of a cell that a keyword hit: column (number among the columns asked for), start, end, keyword from 1. */
export type MarkTuple = readonly [column: number, start: number, end: number, keyword: number];

export interface AnswerRow {
  readonly id: number;
  /** Place in the table's own order, from 1. */
  readonly place: number;
  readonly match: boolean;
  readonly cells: readonly string[];
  readonly marks: readonly MarkTuple[];
}

export interface AnswerKeyword {
  /** From 1 across all strands; 0 for one asked to be absent. */
  readonly number: number;
  readonly strand: number;
  readonly text: string;
  /** UTF-16 range in the strand's text. */
  readonly start: number;
  readonly end: number;
  /** Rows of the answer that it hits. */
  readonly rows: number;
}

export interface AnswerNotice {
  readonly strand: number;
  readonly message: string;
  readonly start: number;
  readonly end: number;
}

export interface SearchAnswer {
  /** Rows of the whole table. */
  readonly total: number;
  /** Rows that match what was typed. */
  readonly matched: number;
  /** Rows on show. */
  readonly shown: number;
  /** Rows searched; less than the total only while an answer is still growing. */
  readonly searched: number;
  /** True if a strand asked something. */
  readonly asked: boolean;
  readonly complete: boolean;
  /** True if a later turn of the same session made this one void; nothing else is then to be read. */
  readonly overtaken: boolean;
  /** Of the columns asked for, how many rows of the answer hit in each. */
  readonly columnTallies: readonly number[];
  /** Matching rows in equal parts of the whole table, first to last; empty if nothing was asked. */
  readonly trace: readonly number[];
  readonly keywords: readonly AnswerKeyword[];
  readonly notices: readonly AnswerNotice[];
  /** Why a strand cannot be answered, if so. */
  readonly problem: AnswerNotice | null;
  readonly offset: number;
  readonly rows: readonly AnswerRow[];
  /** Milliseconds the engine worked on it. */
  readonly milliseconds: number;
}
