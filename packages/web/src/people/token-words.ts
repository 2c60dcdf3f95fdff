import type { TableSummary, TokenKind } from '@usual-needle/contract';

/** The kinds of token in words, each as it goes on after the name of a program. */
export const TOKEN_DOES: Record<TokenKind, string> = {
  reads: 'reads',
  keeps: 'keeps the records of',
  refreshes: 'refreshes',
  everything: 'does all that its person may do with',
};

/** Gives the tables of a token by their names. @param all stands for all that are its person's */
export function namedTables(ids: readonly number[] | null, tables: readonly TableSummary[], all: string): string {
  if (ids === null) return all;
  const names = ids.map((id) => tables.find((one) => one.id === id)?.name ?? `table ${id}`);
  return names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
}
