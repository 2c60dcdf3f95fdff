/** Tokens: what a person gives a program, so that it may do some of what they may, until a day. */
import type { FromSchema } from 'json-schema-to-ts';
import { LARGEST_NUMBER } from './limits.js';

/**
 * The things that tokens can be made for.
 *
 * ```
 * reads        looks at tables and boxes, searches, and takes rows out
 * keeps        edits records, too
 * refreshes    gives a table newer rows from a file, and nothing else
 * everything   all that its person may do, but looking after people, passwords and tokens
 * ```
 */
export const TOKEN_KINDS = ['reads', 'keeps', 'refreshes', 'everything'] as const;
export type TokenKind = (typeof TOKEN_KINDS)[number];

/** Days after which a token ends, at most. */
export const LONGEST_TOKEN_DAYS = 366;
/** Tokens that one person can have. */
export const MOST_TOKENS = 100;

export const tokenRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name', 'kind', 'days'],
  properties: {
    /** The thing that it is for, as its person calls it. */
    name: { type: 'string', minLength: 1, maxLength: 60, pattern: '\\S' },
    kind: { enum: TOKEN_KINDS },
    /** Numbers of the tables that it is for; all that are its person's, if not said. */
    tables: {
      type: 'array',
      minItems: 1,
      maxItems: 1000,
      items: { type: 'integer', minimum: 1, maximum: LARGEST_NUMBER },
    },
    days: { type: 'integer', minimum: 1, maximum: LONGEST_TOKEN_DAYS },
  },
} as const;
export type TokenRequest = FromSchema<typeof tokenRequestSchema>;

/** A token as it is listed: without its secret, of which only a hash is kept. */
export interface TokenSummary {
  readonly id: number;
  readonly name: string;
  readonly kind: TokenKind;
  /** Numbers of its tables; null for all that are its person's. */
  readonly tables: readonly number[] | null;
  /** The moment of its end, as a date-time. */
  readonly until: string;
  /** When it was used last, to the minute, as a date-time; null for one that never was. */
  readonly used: string | null;
}

export interface TokenList {
  readonly tokens: readonly TokenSummary[];
}

/** A token that was just made. Its secret is told once. */
export interface MadeToken {
  readonly id: number;
  /** The secret, which is sent as `Authorization: Bearer …`. */
  readonly token: string;
  readonly until: string;
}
