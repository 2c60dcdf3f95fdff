/**
 * The parts that a scope lets be seen of a table, its rows and its log. A column outside of it is not told blank: it is not there, so that
 * neither its place nor the number of columns tells that it exists.
 */
import {
  isInSet,
  presentPlaces,
  toldTable,
  type Change,
  type Column,
  type RowHistoryEntry,
  type Scope,
  type TableSummary,
} from '@usual-needle/contract';

/** Tells whether a scope hides nothing of a table. */
export function seesAll({ visible }: Scope): boolean {
  return visible === 'every column';
}

/** Gives the places, in the order in which they stand, of the columns that are there and that a scope has. */
export function seenPlaces(columns: readonly Column[], { visible }: Scope): number[] {
  return presentPlaces(columns).filter((at) => isInSet(visible, columns[at].name));
}

/** Gives a table as it is told within a scope. */
export function seenTable(table: TableSummary, scope: Scope): TableSummary {
  if (seesAll(scope)) {
    const told = toldTable(table);
    return scope.actions.includes('change the box') ? told : { ...told, role: 'keeps' };
  }
  const { id, name, description, columns, rows, version, change, changedAt, now } = table;
  return {
    ...{ id, name, description, rows, version, change, changedAt },
    ...(now !== undefined && { now }),
    columns: seenPlaces(columns, scope).map((at) => seenColumn(columns[at])),
  };
}

/** Tells of a column what its cells are read and shown by; not what it was called before, nor where its cells come from. */
export function seenColumn({ name, kind, dateOrder, decimal, order, shown }: Column): Column {
  return {
    ...{ name, kind },
    ...(dateOrder && { dateOrder }),
    ...(decimal && { decimal }),
    ...(order && { order }),
    ...(shown && { shown }),
  };
}

type Cells = readonly string[];

/** Gives the cells of a row that a scope has, in the order of `seenTable`; of the log, as they are kept where it has all. */
function seenCells(cells: Cells, columns: readonly Column[], scope: Scope): Cells {
  return seesAll(scope) ? cells : seenPlaces(columns, scope).map((at) => cells[at] ?? '');
}

/**
 * Rows of a change are told, where a scope does not have all of it, only as far as something in them was changed that it has; a change
 * of nothing that it has is none. @returns the changes that are left
 */
export function seenChanges(changes: readonly Change[], columns: readonly Column[], scope: Scope): readonly Change[] {
  if (seesAll(scope)) return changes;
  return changes.flatMap((change) => {
    const seen = seenChange(change, columns, scope);
    const { rowChanges, counts } = seen;
    const isOfRows = counts !== null && counts.added + counts.removed > 0;
    const isSeen = rowChanges ? rowChanges.length > 0 : isOfRows || (counts?.columns.length ?? 0) > 0;
    return isSeen || change.kind === 'brought in' ? [seen] : [];
  });
}

function seenChange(change: Change, columns: readonly Column[], scope: Scope): Change {
  const { rowChanges, counts } = change;
  const cut = (cells: Cells | null): Cells | null => cells && seenCells(cells, columns, scope);
  const seen = rowChanges?.flatMap(({ id, before, after }) => {
    const [was, is] = [cut(before), cut(after)];
    return JSON.stringify(was) === JSON.stringify(is) ? [] : [{ id, before: was, after: is }];
  });
  return {
    ...change,
    rows: seen?.length ?? change.rows,
    rowChanges: seen ?? null,
    counts: counts && { ...counts, columns: counts.columns.filter((name) => isInSet(scope.visible, name)) },
    columns: null,
    key: null,
  };
}

/** Gives what happened to a row as far as a scope has it; what it has nothing of did not happen. */
export function seenEntries(
  entries: readonly RowHistoryEntry[],
  columns: readonly Column[],
  scope: Scope,
): readonly RowHistoryEntry[] {
  if (seesAll(scope)) return entries;
  return entries.flatMap((entry) => {
    const before = entry.before && seenCells(entry.before, columns, scope);
    const after = entry.after && seenCells(entry.after, columns, scope);
    return JSON.stringify(before) === JSON.stringify(after) ? [] : [{ ...entry, before, after }];
  });
}
