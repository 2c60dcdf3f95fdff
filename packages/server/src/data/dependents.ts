/** The things that depend on a table, or on one of its columns: boxes that name it, tables that borrow from it. */
import { columnAt, type Box, type Dependents, type TableSummary } from '@usual-needle/contract';

/** A box with how often it was opened. */
interface OpenedBox {
  readonly id: number;
  readonly name: string;
  readonly opened: number;
  readonly box: Box;
}

/** Names of the columns that a box cannot do without. */
function namedIn({ everyColumn, threaded = [], columns = [], pickers = [], sort = [] }: Box): string[] {
  return [
    ...(everyColumn ? [] : threaded),
    ...columns.map(({ name }) => name),
    ...pickers.map(({ column }) => column),
    ...sort.map(({ column }) => column),
  ];
}

/** @param column without one, what depends on the table */
export function dependentsOf(
  id: number,
  column: string | undefined,
  tables: readonly TableSummary[],
  boxes: readonly OpenedBox[],
): Dependents {
  const own = tables.find((table) => table.id === id)?.columns ?? [];
  const at = column === undefined ? -1 : columnAt(own, column);
  const isMeant = (name: string): boolean => column === undefined || (at >= 0 && columnAt(own, name) === at);
  const borrowers = tables.flatMap((table) => {
    const columns = table.columns.filter(
      ({ borrows, removed }) =>
        borrows?.table === id && !removed && (isMeant(borrows.column) || isMeant(borrows.matches)),
    );
    return table.id === id || columns.length === 0
      ? []
      : [{ id: table.id, name: table.name, columns: columns.map(({ name }) => name) }];
  });
  return {
    boxes: boxes
      .filter(({ box }) => column === undefined || namedIn(box).some(isMeant))
      .map(({ id: box, name, opened }) => ({ id: box, name, opened })),
    borrowers,
  };
}
