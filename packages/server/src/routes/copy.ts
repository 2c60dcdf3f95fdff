/** A table as a file: read and written some rows at a time, however many there are. */
import { presentPlaces, type Column, type StoredRow, type TableSummary } from '@usual-needle/contract';
import { csvLine } from '@usual-needle/formats/light';
import type { Tables } from '../data/tables.js';

const AT_ONCE = 1_000;

/** Cells of rows, with those of borrowed columns looked up. */
export type Filled = (table: TableSummary, rows: readonly StoredRow[]) => Promise<readonly (readonly string[])[]>;

/**
 * The columns and rows of a table as CSV (RFC 4180), cells as they are kept, as they were after a change: what later ones did is
 * taken back while the rows are read. Borrowed columns are in it only as they are now: what they were is in another table's log.
 */
export async function* copyOf(
  tables: Tables,
  table: TableSummary,
  filled: Filled,
  number = table.change,
): AsyncGenerator<string> {
  const { id } = table;
  // Of each row that was changed since, what it was before the first of those changes; null for one that was not there.
  const before = new Map<number, readonly string[] | null>();
  let earlier: readonly Column[] | undefined;
  for await (const change of tables.log(id, number)) {
    earlier ??= change.columns?.before;
    for (const row of change.rowChanges ?? []) if (!before.has(row.id)) before.set(row.id, row.before);
  }
  const columns = earlier ?? table.columns;
  const then = number < table.change;
  const places = presentPlaces(columns).filter((i) => !(then && columns[i].borrows));
  const line = (cells: readonly string[]): string => csvLine(places.map((i) => cells[i] ?? ''));
  yield csvLine(places.map((i) => columns[i].name));
  // Rows that were removed since come where they were, among those that are there.
  const there = [...before].flatMap(([row, cells]) => (cells ? [row] : [])).sort((a, b) => a - b);
  let next = 0;
  const pending = (upTo: number): string => {
    let text = '';
    for (; next < there.length && there[next] < upTo; next++) text += line(before.get(there[next])!);
    return text;
  };
  for await (const rows of tables.all(id, AT_ONCE)) {
    const cells = await filled(table, rows);
    yield rows.map((row, i) => pending(row.id) + (before.has(row.id) ? '' : line(cells[i]))).join('');
  }
  yield pending(Infinity);
}
