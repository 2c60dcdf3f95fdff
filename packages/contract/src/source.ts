/** Sources: where a table takes newer rows from by itself, how often, and how much may change before it waits for its builder. */
import type { FromSchema } from 'json-schema-to-ts';
import { fileChoicesSchema } from './file-choices.js';

/** The place in a day that a run is at, and the IANA time zone that the day is of. */
const AT = { type: 'string', pattern: '^([01]\\d|2[0-3]):[0-5]\\d$' } as const;
const ZONE = { type: 'string', minLength: 1, maxLength: 64 } as const;

/** The ways in which an address is told who asks: not at all, or with a secret that is kept apart from the source. */
export const SIGN_INS = ['none', 'password', 'token'] as const;

const addressSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['address', 'signIn'],
  properties: {
    address: { type: 'string', minLength: 1, maxLength: 2_000, pattern: '^[Hh][Tt][Tt][Pp][Ss]?://' },
    signIn: { enum: SIGN_INS },
  },
} as const;
const querySchema = {
  type: 'object',
  additionalProperties: false,
  required: ['connection', 'query'],
  properties: {
    /** The name of a PostgreSQL, as whoever runs the server has called it. */
    connection: { type: 'string', minLength: 1, maxLength: 100 },
    query: { type: 'string', minLength: 1, maxLength: 20_000, pattern: '\\S' },
  },
} as const;
const inTraySchema = {
  type: 'object',
  additionalProperties: false,
  required: ['file'],
  properties: {
    /** The name of a file in the in-tray, in which `*` stands for any letters, and `?` for one. */
    file: {
      type: 'string',
      minLength: 1,
      maxLength: 200,
      pattern: '^[^/\\\\\\u0000-\\u001f]+$',
      not: { pattern: '^\\.' },
    },
  },
} as const;

/** How often a source is asked. `change` is whenever it is noticed that something is new there. */
export const rhythmSchema = {
  anyOf: [
    { type: 'object', additionalProperties: false, required: ['every'], properties: { every: { const: 'change' } } },
    {
      type: 'object',
      additionalProperties: false,
      required: ['every', 'number'],
      properties: { every: { enum: ['minutes', 'hours'] }, number: { type: 'integer', minimum: 1, maximum: 1_000 } },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['every', 'at', 'zone'],
      properties: { every: { const: 'day' }, at: AT, zone: ZONE },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['every', 'day', 'at', 'zone'],
      properties: {
        every: { const: 'week' },
        /** The day of the week (ISO 8601): 1 is Monday. */
        day: { type: 'integer', minimum: 1, maximum: 7 },
        at: AT,
        zone: ZONE,
      },
    },
  ],
} as const;
export type Rhythm = FromSchema<typeof rhythmSchema>;

export const sourceSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['from', 'rhythm', 'key', 'gone', 'most'],
  properties: {
    from: { anyOf: [addressSchema, querySchema, inTraySchema] },
    rhythm: rhythmSchema,
    /** Columns whose values tell which row is which; without one, the places of the rows do. */
    key: { type: 'array', maxItems: 20, items: { type: 'string', minLength: 1, maxLength: 200 } },
    /** The way of rows that are not there any more. */
    gone: { enum: ['keep', 'remove'] },
    /** The rows of a hundred that may change or go before a run waits for the builder; null if any number may. */
    most: { type: ['integer', 'null'], minimum: 0, maximum: 100 },
    /** How what comes is to be read, where that is not found by itself. */
    how: fileChoicesSchema,
  },
} as const;
export type Source = FromSchema<typeof sourceSchema>;
export type SourceFrom = Source['from'];

/** The secret that an address is asked with. It is told to nobody again. */
const secretSchema = {
  anyOf: [
    { type: 'null' },
    {
      type: 'object',
      additionalProperties: false,
      required: ['user', 'password'],
      properties: {
        user: { type: 'string', maxLength: 500, pattern: '^[^:\\u0000-\\u001f\\u007f]*$' },
        password: { type: 'string', maxLength: 2_000, pattern: '^[^\\u0000-\\u001f\\u007f]*$' },
      },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['token'],
      properties: { token: { type: 'string', minLength: 1, maxLength: 8_000, pattern: '^[\\u0021-\\u007e]+$' } },
    },
  ],
} as const;

/** A source that is to be tried or kept. */
export const sourceRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['source'],
  properties: {
    source: sourceSchema,
    /** If not said, the one that is kept stays, as long as it goes to the same server. */
    secret: secretSchema,
  },
} as const;
export type SourceRequest = FromSchema<typeof sourceRequestSchema>;
export type SourceSecret = Exclude<SourceRequest['secret'], undefined | null>;

/** Asks for what a source that is kept would do now, or for one that is not. */
export const sourceTrySchema = {
  type: 'object',
  additionalProperties: false,
  properties: sourceRequestSchema.properties,
} as const;
export type SourceTry = FromSchema<typeof sourceTrySchema>;

export const sourceRunSchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    /** True to do it though it is more than may change, or lacks a column, or has keys that tell no row. */
    anyway: { type: 'boolean' },
  },
} as const;
export type SourceRun = FromSchema<typeof sourceRunSchema>;

/** The counts of what a run did, or would do. */
export interface RunCounts {
  readonly added: number;
  readonly changed: number;
  readonly gone: number;
}

/**
 * The outcomes of a run.
 *
 * ```
 * done     the table was changed
 * same     there was nothing new
 * waits    nothing was done: its builder decides
 * left     its builder decided that nothing is done
 * failed   what was to be asked did not answer; it is tried again
 * ```
 */
export const RUN_OUTCOMES = ['done', 'same', 'waits', 'left', 'failed'] as const;
export type RunOutcome = (typeof RUN_OUTCOMES)[number];

export interface SourceRunTold {
  /** The moment that it was for, and when it was over, as date-times. */
  readonly due: string;
  readonly at: string;
  readonly outcome: RunOutcome;
  readonly counts: RunCounts | null;
  /** The reason, where nothing was done. */
  readonly why: string | null;
  /** Number of the change that it became. */
  readonly change: number | null;
  /** Earlier moments that it stands for, since the server was not there then. */
  readonly missed: number;
  readonly who: string | null;
}

export interface SourceRuns {
  readonly runs: readonly SourceRunTold[];
}

/** A source as it is told to who builds its table: all but its secret. */
export interface SourceTold {
  readonly table: number;
  readonly source: Source;
  readonly version: number;
  readonly hasSecret: boolean;
  /** The next run, as a date-time; null where it waits, or comes when something is new. */
  readonly next: string | null;
  readonly last: SourceRunTold | null;
  /** The moment that the rows are from: of the last run that was done or found nothing new; null before the first. */
  readonly rowsFrom: string | null;
  /** Runs since the last that failed or had to wait, and failures since the last that did not. */
  readonly inARow: number;
  readonly failures: number;
  readonly waiting: { readonly since: string; readonly why: string; readonly counts: RunCounts | null } | null;
  readonly running: boolean;
}

export interface SourceList {
  readonly sources: readonly SourceTold[];
  /** The PostgreSQLs that can be asked, by name; whether there is an in-tray. */
  readonly connections: readonly string[];
  readonly inTray: boolean;
}

/** Failures in a row after which every sheet of a table says so. */
export const FAILURES_SAID = 3;
