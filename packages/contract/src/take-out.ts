/** Taking rows out: what is asked, and what is told of what leaves. */
import type { FromSchema } from 'json-schema-to-ts';
import { boxSchema, questionSchema } from './box.js';
import type { Column } from './column.js';
import { LARGEST } from './limits.js';
import type { Action } from './scope.js';
import type { AnswerKeyword, MarkTuple } from './search.js';
import type { OpenedBox } from './share.js';

/** The forms in which rows leave: `page` is one to print, `take-away` one that searches by itself. */
export const TAKE_OUT_FORMS = ['csv', 'json', 'ndjson', 'xlsx', 'page', 'take-away'] as const;
/** The forms that rows have by an address. */
export const ADDRESS_FORMS = ['csv', 'json', 'ndjson', 'xlsx'] as const;
export type TakeOutForm = (typeof TAKE_OUT_FORMS)[number];

/** Rows that may be named one by one; more are taken out as those on show. */
export const TAKEN_BY_ID = 50_000;

/** The limits of a spreadsheet file (ECMA-376): rows under its header, UTF-16 units of a cell, columns. */
export const WORKBOOK_LIMITS = { rows: 1_048_575, cell: 32_767, columns: 16_384 } as const;

/** The settings that say how what leaves is written, each with its meaning where it is not given. */
export const writingSchema = {
  /** False to leave the names of the columns out. */
  header: { type: 'boolean' },
  /** True to keep what looks like a formula from being run by a spreadsheet program. */
  safe: { type: 'boolean' },
  /** The sign between cells of CSV; a comma if not said. */
  delimiter: { enum: ['comma', 'semicolon', 'tab'] },
  /** True to begin with a byte-order mark, by which spreadsheet programs tell UTF-8. */
  mark: { type: 'boolean' },
  /** True to take the marks along: in JSON as numbers, on a page drawn, in a spreadsheet file in bold. */
  marks: { type: 'boolean' },
} as const;

/** A request for rows of a table, or of a box, in one of the forms. */
export const takeOutSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['form', 'question'],
  properties: {
    form: { enum: TAKE_OUT_FORMS },
    question: questionSchema,
    /** Names of the columns, in their order; all that are seen, if not said. */
    columns: { type: 'array', minItems: 1, maxItems: 500, items: { type: 'string', maxLength: 200 } },
    /** Widths of those columns on screen, in CSS pixels, for a spreadsheet file. */
    widths: { type: 'array', maxItems: 500, items: { type: 'integer', minimum: 1, maximum: 10_000 } },
    /** Rows by their ids; all on show, if not said. */
    rows: { type: 'array', maxItems: TAKEN_BY_ID, items: { type: 'integer', minimum: 0, maximum: LARGEST } },
    offset: { type: 'integer', minimum: 0, maximum: LARGEST },
    limit: { type: 'integer', minimum: 0, maximum: LARGEST },
    ...writingSchema,
    /** The box, for a take-away page of who keeps the table: as it is on show, saved or not. */
    box: boxSchema,
    /** The box's sentence, for a page to print. */
    sentence: { type: 'string', maxLength: 4_000 },
    /** The name of the box, for the name of the file. */
    name: { type: 'string', maxLength: 200 },
    /** A key that nobody can guess, to ask by how far it is. */
    key: { type: 'string', minLength: 16, maxLength: 64 },
  },
} as const;

export type TakeOutRequest = FromSchema<typeof takeOutSchema>;
export type Writing = Pick<TakeOutRequest, 'header' | 'safe' | 'delimiter' | 'mark' | 'marks'>;

/** The facts about rows that are known before the first of them leaves. All of it is of one moment. */
export interface TakenFacts {
  /** Number of the last change that is in them. */
  readonly change: number;
  /** How many leave. */
  readonly rows: number;
  /** Rows that there are, that match what is typed, and that are on show. */
  readonly total: number;
  readonly matched: number;
  readonly shown: number;
  readonly columns: readonly Column[];
  readonly keywords: readonly Pick<AnswerKeyword, 'number' | 'text' | 'rows'>[];
  /** UTF-16 units of the longest cell of each column, as far as it is over a spreadsheet file's limit; else at most that. */
  readonly longest: readonly number[];
}

/** How far rows on their way out are. */
export interface TakeOutProgress {
  readonly rows: number;
}

/** The settings of rows that are taken out by an address, beside those of the page. */
export const addressQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    /** The text that is typed, and what else the page's address says. */
    q: { type: 'string', maxLength: 20_000 },
    as: { type: 'string', maxLength: 100_000 },
    offset: { type: 'integer', minimum: 0, maximum: LARGEST },
    limit: { type: 'integer', minimum: 0, maximum: LARGEST },
    ...writingSchema,
  },
} as const;
export type AddressQuery = FromSchema<typeof addressQuerySchema>;

/** The header that says which change of the table rows are of, and the one that says how many leave. */
export const CHANGE_HEADER = 'Usual-Needle-Change';
export const ROWS_HEADER = 'Usual-Needle-Rows';

/** A row that leaves: its stored cells, and its marks, in the shown texts, where they are wanted. */
export interface TakenRow {
  readonly id: number;
  readonly cells: readonly string[];
  readonly marks?: readonly MarkTuple[];
}

/** The actions that make sense in a take-away page, where nothing can be changed but what is looked for. */
export const OPEN_IN_PAGE: readonly Action[] = [
  'thread',
  'change readings',
  'change the effect',
  'narrow',
  'sort',
  'flip',
];

/** Rows that a take-away page may have. */
export const TAKE_AWAY_ROWS = 100_000;

/** The things that a take-away page knows besides its rows. */
export interface TakenAway {
  /** The name that it keeps its own things under in a browser. */
  readonly id: string;
  readonly opened: OpenedBox;
  /** Columns of the rows, in the order in which they are packed. */
  readonly columns: readonly Column[];
  /** Number of the last change that is in the rows, and when they were taken, as a date-time. */
  readonly change: number;
  readonly at: string;
  /** The name of who took them, if that is known. */
  readonly who?: string;
  /** Bytes of the numbers and of the texts of each part of the table's packed cells. */
  readonly parts: readonly (readonly [numbers: number, texts: number])[];
}
