/** A box as it is on a table: by the names that its columns have now, without those that are not there any more. */
import type { Box } from './box.js';
import { columnAt, type Column } from './column.js';

/** The present name of a column, by that or by one it had before; undefined if the table has no such column. */
export function columnName({ columns }: { readonly columns: readonly Column[] }, name: string): string | undefined {
  return columns[columnAt(columns, name)]?.name;
}

/** The box with its columns by their present names, and without those that the table does not have. */
export function onTable(
  box: Box,
  { columns: all }: { readonly columns: readonly Column[] },
): { readonly box: Box; readonly gone: readonly string[] } {
  const gone = new Set<string>();
  const present = (name: string): string | undefined => {
    const found = columnName({ columns: all }, name);
    if (found === undefined) gone.add(name);
    return found;
  };
  const named = <T extends { readonly name: string }>(list: readonly T[]): T[] =>
    list.flatMap((one) => {
      const name = present(one.name);
      return name === undefined ? [] : [{ ...one, name }];
    });
  const about = <T extends { readonly column: string }>(list: readonly T[]): T[] =>
    list.flatMap((one) => {
      const column = present(one.column);
      return column === undefined ? [] : [{ ...one, column }];
    });
  const { threaded, columns, pickers, sort } = box;
  const fitted: Box = {
    ...box,
    ...(threaded && { threaded: [...new Set(threaded.flatMap((name) => present(name) ?? []))] }),
    ...(columns && { columns: unique(named(columns)) }),
    ...(pickers && { pickers: about(pickers) }),
    ...(sort && { sort: about(sort) }),
  };
  // A box that would show nothing shows everything.
  if (fitted.columns?.length === 0) delete fitted.columns;
  return { box: fitted, gone: [...gone] };
}

function unique<T extends { readonly name: string }>(list: readonly T[]): T[] {
  return list.filter(({ name }, i) => list.findIndex((one) => one.name === name) === i);
}
