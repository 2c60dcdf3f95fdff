import { LARGEST_NUMBER } from './limits.js';
import type { Column } from './column.js';

/** The kinds of changes of a table, in the words of its history. */
export const CHANGE_KINDS = [
  'brought in',
  'refreshed',
  'edited',
  'filled',
  'pasted',
  'added',
  'removed',
  'columns',
  'undone',
] as const;

export type ChangeKind = (typeof CHANGE_KINDS)[number];

/** A row of a change: its cells before and after; null where the row was not there. */
export interface RowChange {
  readonly id: number;
  readonly before: readonly string[] | null;
  readonly after: readonly string[] | null;
}

/** Counts of the rows that a change added, changed and removed, and the first of the columns in which it changed cells. */
export interface ChangeCounts {
  readonly added: number;
  readonly changed: number;
  readonly removed: number;
  readonly columns: readonly string[];
}

/** A numbered batch of edits to a table. Numbers run 1, 2, 3 … without a gap. */
export interface Change {
  readonly table: number;
  readonly number: number;
  /** When it was committed, as a date-time. */
  readonly at: string;
  /** The name of who did it, if that is known. */
  readonly who: string | null;
  readonly kind: ChangeKind;
  /** The key that its asker gave it. */
  readonly key: string | null;
  /** The change that it undoes, if it undoes one. */
  readonly undoes: number | null;
  /** How many rows it added, changed or removed. */
  readonly rows: number;
  /** Null for a bring-in, and for changes of before there were such counts. */
  readonly counts: ChangeCounts | null;
  /** Row by row; null for a change too large to be kept row by row, such as a bring-in. */
  readonly rowChanges: readonly RowChange[] | null;
  /** The columns as they were and as they are from then on, if the change changed them. */
  readonly columns: { readonly before: readonly Column[]; readonly after: readonly Column[] } | null;
}

/** Query of a request for the changes of a table. */
export const changesQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    after: { type: 'integer', minimum: 0, maximum: LARGEST_NUMBER, default: 0 },
    limit: { type: 'integer', minimum: 1, maximum: 1000, default: 100 },
    /** The last ones first, before this one. */
    before: { type: 'integer', minimum: 1, maximum: LARGEST_NUMBER },
    /** Leaves out what the changes did row by row, which may be much. */
    brief: { type: 'boolean', default: false },
  },
} as const;

export interface ChangesQuery {
  readonly after: number;
  readonly limit: number;
  readonly before?: number;
  readonly brief: boolean;
}

export interface ChangeList {
  readonly changes: readonly Change[];
}
