/** The rows of a table as they were after an earlier change: what later ones did is taken back while the rows are read. */
import type { Column, StoredRow, TableSummary } from '@usual-needle/contract';
import { ROWS_AT_ONCE, type Tables } from './tables.js';

/** A table's columns then. What was borrowed is left out, as if removed: what it was is in another table's log. */
export async function columnsThen(tables: Tables, table: TableSummary, number: number): Promise<readonly Column[]> {
  const columns = (await tables.columnsBefore(table.id, number)) ?? table.columns;
  return columns.map((column) => (column.borrows ? { ...column, removed: true } : column));
}

/** A change as far as rows are taken back by it. */
interface Since<Row> {
  readonly number: number;
  /** The rows that it touched, each as it was before; null for one that was not there. */
  readonly rows: Iterable<{ readonly id: number; readonly before: Row | null }>;
}

/** @returns rows by their numbers, one or more at a time; those that were removed since come where they were */
export function rowsThen(tables: Tables, id: number, number: number): AsyncGenerator<StoredRow[]> {
  async function* since(known: number): AsyncGenerator<Since<StoredRow>> {
    for await (const change of tables.log(id, known)) {
      const rows = (change.rowChanges ?? []).map(({ id: row, before }) => ({
        id: row,
        before: before && { id: row, version: number, cells: [...before] },
      }));
      yield { number: change.number, rows };
    }
  }
  return takenBack(tables.all(id), since, number);
}

/**
 * Takes back what was done after a change, while the rows are read.
 * @param all the rows as they are when they are read, in the order of their numbers
 * @param since reads the changes after one
 */
export async function* takenBack<Row extends { readonly id: number }>(
  all: AsyncIterable<Row[]>,
  since: (known: number) => AsyncIterable<Since<Row>>,
  number: number,
): AsyncGenerator<Row[]> {
  // Of each row that was changed since, what it was before the first of those changes; null for one that was not there.
  const before = new Map<number, Row | null>();
  /** The rows that were there, in order, of which some are told already. */
  let there: number[] = [];
  let known = number;
  let told = 0;
  /** Follows what was committed up to now: to be read after rows, so that nothing is in them that is not known of. */
  const follow = async (): Promise<void> => {
    let isMore = false;
    for await (const change of since(known)) {
      known = change.number;
      for (const row of change.rows) {
        if (before.has(row.id)) continue;
        before.set(row.id, row.before);
        // What was told before it was changed was told as it was then.
        if (row.before && row.id > told) isMore = true;
      }
    }
    if (isMore) there = [...before].flatMap(([row, was]) => (was && row > told ? [row] : [])).sort((a, b) => a - b);
  };
  const asThen = (rows: readonly Row[], upTo: number): Row[] => {
    const count = there.findIndex((row) => row > upTo);
    const changed = there.splice(0, count < 0 ? there.length : count);
    told = upTo;
    const same = rows.filter((row) => !before.has(row.id));
    return [...same, ...changed.map((row) => before.get(row)!)].sort((a, b) => a.id - b.id);
  };
  for await (const rows of all) {
    await follow();
    const some = asThen(rows, rows[rows.length - 1].id);
    // They may all have come since.
    if (some.length > 0) yield some;
  }
  await follow();
  for (;;) {
    const some = asThen([], there[ROWS_AT_ONCE - 1] ?? Infinity);
    if (some.length === 0) return;
    yield some;
  }
}
