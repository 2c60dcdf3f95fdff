/** The order in which tables are read at a start. */
import type { Column, TableSummary } from '@usual-needle/contract';

/** Tables that columns are borrowed from. */
export function lendersOf(columns: readonly Column[]): ReadonlySet<number> {
  return new Set(columns.flatMap(({ borrows, removed }) => (borrows && !removed ? [borrows.table] : [])));
}

/**
 * Lenders first, so that whoever borrows finds at once what is lent; of the others those that need not be built.
 * @param packed tables whose packs were read
 */
export function inLoadingOrder<T extends Pick<TableSummary, 'id' | 'columns'>>(
  tables: readonly T[],
  packed: ReadonlySet<number>,
): T[] {
  const lending = new Set(tables.flatMap(({ columns }) => [...lendersOf(columns)]));
  const rank = ({ id, columns }: T): number =>
    packed.has(id) && lendersOf(columns).size === 0 ? 0 : lending.has(id) ? 1 : packed.has(id) ? 2 : 3;
  return [...tables].sort((a, b) => rank(a) - rank(b));
}
