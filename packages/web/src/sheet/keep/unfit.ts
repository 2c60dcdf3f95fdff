import type { Column } from '@usual-needle/contract';
import { fits, wayOf } from '@usual-needle/engine';

const WORDS: Partial<Record<Column['kind'], string>> = {
  date: 'This is no date.',
  number: 'This is no number.',
  'yes/no': 'This is neither yes nor no.',
};

/** Why a text does not fit its column, in words; empty if it does. It is kept all the same. */
export function unfit(text: string, column: Column): string {
  const way = wayOf(column);
  if (way === undefined || text.trim() === '' || fits(text, way)) return '';
  return `${WORDS[column.kind] ?? ''} It is kept as it is.`;
}
