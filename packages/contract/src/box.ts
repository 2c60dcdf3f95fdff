import type { FromSchema } from 'json-schema-to-ts';

/**
 * A box: the whole definition of a search box, as it is kept, shared and written to a file. Columns are named. What is
 * left out has the default that `BOX_DEFAULTS` gives.
 */

const day = { type: 'string', pattern: '^(\\d{4}(-\\d{2}(-\\d{2})?)?)?$' } as const;
const columnName = { type: 'string', minLength: 1, maxLength: 200 } as const;

const readingSchema = { enum: ['words', 'plain text', 'wildcards', 'pattern'] } as const;

const strandSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['verb', 'text'],
  properties: {
    verb: { enum: ['find', 'plus', 'minus', 'within'] },
    text: { type: 'string', maxLength: 20000 },
    /** The box's reading, if not said. */
    reading: readingSchema,
  },
} as const;

/** A condition beside the box. An empty one is no condition. */
const pickerSchema = {
  oneOf: [
    {
      type: 'object',
      additionalProperties: false,
      required: ['column', 'values'],
      properties: {
        column: columnName,
        /** Rows whose cell is one of these; the empty text stands for blank. */
        values: { type: 'array', maxItems: 1000, items: { type: 'string', maxLength: 100000 } },
      },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['column', 'days'],
      properties: {
        column: columnName,
        /** First and last day, inclusive; a month or a year stands for all of it; empty is open. */
        days: {
          type: 'object',
          additionalProperties: false,
          required: ['from', 'to'],
          properties: { from: day, to: day },
        },
      },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['column', 'numbers'],
      properties: {
        column: columnName,
        /** Inclusive; null is open. */
        numbers: {
          type: 'object',
          additionalProperties: false,
          required: ['from', 'to'],
          properties: { from: { type: ['number', 'null'] }, to: { type: ['number', 'null'] } },
        },
      },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['column', 'answer'],
      properties: { column: columnName, answer: { enum: ['yes', 'no', 'either'] } },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['column', 'letters'],
      properties: {
        column: columnName,
        /** Cells that start with, or contain, one of the letters, folded. */
        letters: { type: 'array', maxItems: 200, items: { type: 'string', minLength: 1, maxLength: 20 } },
        position: { enum: ['starts', 'contains'] },
      },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['column', 'unfit'],
      /** Cells that the column's kind cannot read. */
      properties: { column: columnName, unfit: { const: true } },
    },
  ],
} as const;

const sortLevelSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['column', 'direction'],
  properties: {
    column: columnName,
    direction: { enum: ['up', 'down'] },
    /** Sorts by the value, or by how many rows on show share it. */
    by: { enum: ['value', 'count'] },
  },
} as const;

/** The part of a box that is a question to its table, apart from how the box looks and is worded. */
const questionProperties = {
  /** Names of the columns searched. */
  threaded: { type: 'array', maxItems: 500, items: columnName },
  /** True to search every column, those too that are added or borrowed later; `threaded` does not count then. */
  everyColumn: { type: 'boolean' },
  reading: readingSchema,
  need: { enum: ['every word', 'any word'] },
  where: {
    enum: ['anywhere', 'start of a word', 'whole word', 'start of the cell', 'end of the cell', 'whole cell'],
  },
  case: { enum: ['ignore', 'respect'] },
  accents: { enum: ['ignore', 'respect'] },
  strands: { type: 'array', maxItems: 16, items: strandSchema },
  pickers: { type: 'array', maxItems: 100, items: pickerSchema },
  effect: { enum: ['show only matches', 'mark in place', 'leave matches out'] },
  nothingTyped: { enum: ['every row', 'no row'] },
  flip: { type: 'boolean' },
  sort: { type: 'array', maxItems: 20, items: sortLevelSchema },
} as const;

export const questionSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['threaded'],
  properties: questionProperties,
} as const;

export const boxSchema = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Usual Needle box',
  description: 'The whole definition of a search box.',
  type: 'object',
  additionalProperties: false,
  required: ['format', 'version'],
  properties: {
    format: { const: 'usual-needle box' },
    version: { const: 1 },
    name: { type: 'string', minLength: 1, maxLength: 200 },
    table: { type: 'string', minLength: 1, maxLength: 200 },
    ...questionProperties,
    /** Tells whether *mark in place* marks only the matching cells, or whole rows. */
    grain: { enum: ['cells', 'rows'] },
    /** When the box searches. */
    searches: { enum: ['at each keystroke', 'after a pause', 'on Enter'] },
    /** The way of an edited row in a sorted list. */
    edited: { enum: ['moves', 'stays put'] },
    /** Columns on show, in order, with their widths in pixels. */
    columns: {
      type: 'array',
      maxItems: 500,
      items: {
        type: 'object',
        additionalProperties: false,
        required: ['name'],
        properties: { name: columnName, width: { type: 'integer', minimum: 40, maximum: 2000 } },
      },
    },
    wording: {
      type: 'object',
      additionalProperties: false,
      properties: {
        prompt: { type: 'string', maxLength: 200 },
        help: { type: 'string', maxLength: 500 },
        nothingFound: { type: 'string', maxLength: 500 },
        examples: { type: 'array', maxItems: 12, items: { type: 'string', maxLength: 200 } },
      },
    },
  },
} as const;

export type Box = FromSchema<typeof boxSchema>;
export type WireQuestion = FromSchema<typeof questionSchema>;
export type Reading = FromSchema<typeof readingSchema>;
export type WireSortLevel = FromSchema<typeof sortLevelSchema>;
