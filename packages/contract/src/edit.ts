/**
 * Edits of a table's rows by hand: cells changed, rows added, rows removed, all in one change or none of it. A cell says what it
 * was when its keeper saw it, so that nothing is overwritten in silence, and two people in different cells do not clash.
 */
import type { FromSchema } from 'json-schema-to-ts';
import { LARGEST, LIMITS, LARGEST_NUMBER } from './limits.js';

/** The kinds of edits by hand, in the words of the history. */
const EDIT_KINDS = ['edited', 'filled', 'pasted', 'added', 'removed'] as const;
export type EditKind = (typeof EDIT_KINDS)[number];

/** A name of one's own choosing. */
export const whoSchema = { type: 'string', minLength: 1, maxLength: 60, pattern: '\\S' } as const;

const cellSchema = { type: ['string', 'null'], maxLength: LIMITS.cell } as const;
const idSchema = { type: 'integer', minimum: 1, maximum: LARGEST } as const;

export const editRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['key', 'kind', 'columns'],
  properties: {
    /** Made up by the asker: an edit that is sent again, since its answer did not come, is done once. */
    key: { type: 'string', minLength: 8, maxLength: 64, pattern: '^[\\w-]+$' },
    kind: { enum: EDIT_KINDS },
    who: whoSchema,
    /** Names of the columns that the cells below are of. */
    columns: {
      type: 'array',
      maxItems: LIMITS.columns,
      items: { type: 'string', minLength: 1, maxLength: LIMITS.name },
    },
    /** The cells of each row as they were and as they are to be; null for one that is left as it is. */
    changed: {
      type: 'array',
      maxItems: LIMITS.edited,
      items: {
        type: 'object',
        additionalProperties: false,
        required: ['id', 'was', 'now'],
        properties: {
          id: idSchema,
          was: { type: 'array', maxItems: LIMITS.columns, items: cellSchema },
          now: { type: 'array', maxItems: LIMITS.columns, items: cellSchema },
        },
      },
    },
    /** Cells of new rows; columns that are not named are blank. */
    added: {
      type: 'array',
      maxItems: LIMITS.edited,
      items: { type: 'array', maxItems: LIMITS.columns, items: { type: 'string', maxLength: LIMITS.cell } },
    },
    /** Rows to remove, and the number of the change that they were seen at. */
    removed: {
      type: 'array',
      maxItems: LIMITS.edited,
      items: {
        type: 'object',
        additionalProperties: false,
        required: ['id', 'seen'],
        properties: { id: idSchema, seen: { type: 'integer', minimum: 0, maximum: LARGEST_NUMBER } },
      },
    },
  },
} as const;

export type EditRequest = FromSchema<typeof editRequestSchema>;

/** An edit that is in the log. */
export interface EditDone {
  /** Number of the change that it became; of an edit that changes nothing, the one that the table is at. */
  readonly change: number;
  readonly at: string;
  /** Ids of the rows added, in the order asked. */
  readonly added: readonly number[];
}

/** A cell that somebody else changed since it was seen, or a row that they changed or removed. */
export interface Clash {
  readonly id: number;
  /** Null where it is the whole row. */
  readonly column: string | null;
  readonly was: string | null;
  /** Null if the row has gone. */
  readonly theirs: string | null;
  readonly yours: string | null;
  readonly who: string | null;
  readonly at: string | null;
}

/** Clashes that are told one by one. */
export const CLASHES_TOLD = 100;

export const undoRequestSchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    who: whoSchema,
    /** True to undo only the part that later changes do not stand on. */
    part: { type: 'boolean' },
    key: editRequestSchema.properties.key,
  },
} as const;
export type UndoRequest = FromSchema<typeof undoRequestSchema>;

/** The news of a change, told to everybody who has the table open. */
export interface ChangeNews {
  readonly number: number;
  readonly kind: string;
  readonly who: string | null;
  readonly at: string;
  /** How many rows it added, changed or removed. */
  readonly rows: number;
  /** Ids of the rows it added and of those it changed; null where they are too many to be told. */
  readonly added: readonly number[] | null;
  readonly changed: readonly number[] | null;
  /** Ids of those that it removed. */
  readonly removed: readonly number[] | null;
  /** True if it changed the columns. */
  readonly columns: boolean;
  /** The edit's key, by which its asker knows it. */
  readonly key: string | null;
}

/** Rows of one change that are told by their ids. */
export const NEWS_ROWS = 500;

/** Query of a request to be told of changes as they happen. */
export const eventsQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    /** Tells what happened after this change, first. */
    after: { type: 'integer', minimum: 0, maximum: LARGEST_NUMBER },
    who: whoSchema,
  },
} as const;
export interface EventsQuery {
  readonly after?: number;
  readonly who?: string;
}

/** A change, as the history of one row has it. */
export interface RowHistoryEntry {
  readonly number: number;
  readonly kind: string;
  readonly who: string | null;
  readonly at: string;
  readonly before: readonly string[] | null;
  readonly after: readonly string[] | null;
}
export interface RowHistory {
  readonly entries: readonly RowHistoryEntry[];
}
