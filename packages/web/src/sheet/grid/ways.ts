import type { Column } from '@usual-needle/contract';

/** What up and down are called for a column. */
export function waysOf(column: Pick<Column, 'kind' | 'order'> | undefined): readonly [string, string] {
  if (column?.order && column.order.length > 0) return ['in its own order', 'in its own order, backwards'];
  if (column?.kind === 'date') return ['oldest first', 'newest first'];
  if (column?.kind === 'number') return ['least first', 'most first'];
  return ['A to Z', 'Z to A'];
}
