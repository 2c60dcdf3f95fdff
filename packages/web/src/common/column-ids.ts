import { columnAt, type TableSummary } from '@usual-needle/contract';

declare const columnId: unique symbol;
/** The number that a column is known by, however it is called and wherever it stands: the place of its cells in a row, which never changes. */
export type ColumnId = number & { readonly [columnId]: true };

type Columns = Pick<TableSummary, 'columns' | 'stored'>;

/** The id of a column by its name, or by one that it had; undefined if there is none such any more. */
export function columnIdOf(table: Columns | undefined, name: string): ColumnId | undefined {
  const at = table ? columnAt(table.stored ?? table.columns, name) : -1;
  return at < 0 ? undefined : (at as ColumnId);
}

/** The name that a column has now; undefined if it was removed. */
export function columnNameOf(table: Columns | undefined, id: ColumnId | undefined): string | undefined {
  const column = id === undefined ? undefined : (table?.stored ?? table?.columns)?.[id];
  return column === undefined || column.removed ? undefined : column.name;
}
