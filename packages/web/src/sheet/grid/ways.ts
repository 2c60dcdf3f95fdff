import type { Column } from '@usual-needle/contract';

/** Gives what up and down are called for a column. */
export function waysOf(column: Pick<Column, 'kind' | 'order'> | undefined): readonly [string, string] {
  if (column?.order && column.order.length > 0) return ['in its own order', 'in its own order, last first'];
  if (column?.kind === 'date') return ['oldest first', 'newest first'];
  if (column?.kind === 'number') return ['least first', 'most first'];
  return ['A first', 'Z first'];
}

/** The names of up and down where rows go by how many share a value. */
export const GROUP_WAYS = ['smallest group first', 'largest group first'] as const;
