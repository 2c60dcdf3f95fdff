import type { FromSchema } from 'json-schema-to-ts';
import { LARGEST_NUMBER } from './limits.js';

const name = { type: 'string', minLength: 1, maxLength: 200 } as const;

/** Two columns, one here and one in another table, whose equal cells say which row lends to which. */
const pairing = {
  /** The other table. */
  table: { type: 'integer', minimum: 1, maximum: LARGEST_NUMBER },
  /** The column of this table whose cells are looked up. */
  key: name,
  /** The column of the other one that they are looked up in. Both are compared folded. */
  matches: name,
} as const;

/** Where a borrowed column comes from. Its columns are found by their names, or by those that they had. */
export const borrowsSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['table', 'key', 'matches', 'column', 'several'],
  properties: {
    ...pairing,
    /** The column of the other table. */
    column: name,
    /** The choice where several rows fit: the cell of the first, or all that are filled. */
    several: { enum: ['first', 'all'] },
  },
} as const;
export type Borrows = FromSchema<typeof borrowsSchema>;

/** A pairing of two tables, as it is asked about before anything is borrowed. */
export const pairingSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['table', 'key', 'matches'],
  properties: pairing,
} as const;
export type Pairing = FromSchema<typeof pairingSchema>;

/** Counts of what a pairing would find. */
export interface PairingCounts {
  readonly rows: number;
  /** Rows that find one in the other table; the rest find none. */
  readonly found: number;
  /** Keys that are asked for and stand in several rows there. */
  readonly twice: number;
}

/** A pairing that suggests itself. */
export interface SuggestedPairing extends Pairing {
  /** The share of the distinct keys looked at that is found, from 0 to 1. */
  readonly share: number;
}

export interface Lenders {
  /** Best first. */
  readonly pairings: readonly SuggestedPairing[];
}

/** Columns borrowed from another table, at the end of those that are there. */
export const borrowRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['table', 'key', 'matches', 'columns'],
  properties: {
    ...pairing,
    /** The first, if not said. */
    several: borrowsSchema.properties.several,
    columns: {
      type: 'array',
      minItems: 1,
      maxItems: 50,
      items: {
        type: 'object',
        additionalProperties: false,
        required: ['column'],
        properties: {
          column: name,
          /** The column's name here; if not said, its name there, where that is free. */
          name,
        },
      },
    },
  },
} as const;
export type BorrowRequest = FromSchema<typeof borrowRequestSchema>;
