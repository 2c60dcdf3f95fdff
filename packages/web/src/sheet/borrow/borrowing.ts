import type { Borrows, BorrowRequest, Column, PairingCounts, TableSummary } from '@usual-needle/contract';
import { plural, rowsCounted } from '../../services/numbers';

/** The sentence as far as it is chosen; names that are not chosen yet are empty. */
export interface BorrowDraft {
  /** Id of the other table; 0 for none. */
  readonly table: number;
  readonly key: string;
  readonly matches: string;
  readonly several: Borrows['several'];
  readonly columns: readonly string[];
}

/** Columns that can be looked up by, or lent: those that are not borrowed themselves. */
export function ownColumns({ columns }: TableSummary): Column[] {
  return columns.filter(({ borrows }) => !borrows);
}

/** The request that a draft makes; undefined while it is not whole. */
export function requestOf({ columns, ...draft }: BorrowDraft): BorrowRequest | undefined {
  const { table, key, matches } = draft;
  if (table === 0 || key === '' || matches === '' || columns.length === 0) return undefined;
  return { ...draft, columns: columns.map((column) => ({ column })) };
}

/** Gives what a pairing comes to: “4,038 of 4,120 rows find one, 82 find none, 3 names stand twice.” */
export function countWords({ rows, found, twice }: PairingCounts, matches: string): string {
  if (rows === 0) return 'There are no rows to look up for yet.';
  const none = rows - found;
  const parts = [`${found.toLocaleString()} of ${rowsCounted(rows)} find one`];
  if (none > 0) parts.push(`${none.toLocaleString()} find${none === 1 ? 's' : ''} none`);
  if (twice > 0) parts.push(`${plural(twice, 'value')} of ${matches} stand${twice === 1 ? 's' : ''} in several rows`);
  return `${parts.join(', ')}.`;
}
