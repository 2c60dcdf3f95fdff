import type { WireQuestion } from './box.js';

/** The actions that a builder may open for readers of a box; who keeps the table has all of them. */
export const READER_ACTIONS = [
  'thread',
  'change readings',
  'change the effect',
  'narrow',
  'sort',
  'flip',
  'take out',
  'edit',
  'add',
  'remove',
  'see history',
] as const;

/** The actions that may be open in a box or table, besides reading what is visible. */
const ACTIONS = [...READER_ACTIONS, 'bring in', 'change the box', 'share', 'see misses'] as const;

export type Action = (typeof ACTIONS)[number];

/** Columns by their present names, or all of them, whatever their number. */
export type ColumnSet = 'every column' | readonly string[];

/** The part of a box that is always asked, whatever else is: rows outside of it do not exist for the answer. */
export interface Locked {
  readonly pickers: NonNullable<WireQuestion['pickers']>;
  /** True where a lock cannot be kept, since a column of it is not there any more: then no row exists. */
  readonly noRow?: true;
  /** Strands that each leave rows, with the columns that they look in and how they are read; none if not said. */
  readonly strands?: Pick<WireQuestion, 'threaded' | 'need' | 'where' | 'case' | 'accents' | 'reading' | 'strands'>;
}

/**
 * The parts of one table or box that a principal may see, and what it may do there. Every call to a host takes one; a column outside of it does not
 * exist for that answer.
 */
export interface Scope {
  /** Columns whose cells may be shown. */
  readonly visible: ColumnSet;
  /** Columns that may be searched: a hit in one that is not visible counts, and draws no mark. */
  readonly searchable: ColumnSet;
  readonly narrowable: ColumnSet;
  readonly sortable: ColumnSet;
  readonly editable: ColumnSet;
  readonly actions: readonly Action[];
  readonly locked?: Locked;
}

/** A builder's: everything. */
export const WHOLE_SCOPE: Scope = {
  visible: 'every column',
  searchable: 'every column',
  narrowable: 'every column',
  sortable: 'every column',
  editable: 'every column',
  actions: ACTIONS,
};

export function isInSet(set: ColumnSet, name: string): boolean {
  return set === 'every column' || set.includes(name);
}
