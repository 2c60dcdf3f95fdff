/** The rows of a table by one of its columns, for whoever borrows from it. Follows the table's changes. */
import { finished, type Steps } from '../steps.js';
import type { RowEdit, Table } from '../store/index.js';
import { keyOf, TextMap } from '../text/index.js';

/** The choice where several rows fit: the cell of the first in the table's own order, or all that are filled. */
export type Several = 'first' | 'all';

const JOINED = '; ';
/** Rows of a change that are followed in one step. */
const A_STEP = 512;

export class Lender {
  /** Ids by key, rising; most keys have one. */
  private readonly byKey = new TextMap<number | number[]>();

  /** @param key number of the column that rows are found by */
  constructor(
    private readonly table: Table,
    readonly key: number,
  ) {
    for (const { id, cell } of table.cellsOf(key)) this.add(id, cell);
  }

  /** Keys that rows of the table have, each once. */
  get keys(): Iterable<string> {
    return this.byKey.keys();
  }

  /** Ids of the rows that a key finds, in the table's own order. */
  rows(key: string): readonly number[] {
    const found = this.byKey.get(key);
    return found === undefined ? [] : typeof found === 'number' ? [found] : found;
  }

  /** The cell of a column that a key finds; '' if it finds none. */
  cell(key: string, column: number, several: Several): string {
    const rows = this.rows(key);
    if (rows.length === 0) return '';
    if (several === 'first') return this.table.cellText(rows[0], column) ?? '';
    const cells = rows.map((id) => this.table.cellText(id, column) ?? '');
    return cells.filter((cell) => cell.trim() !== '').join(JOINED);
  }

  /**
   * Follows a change of the table's rows.
   * @param apply makes the change
   * @returns the keys whose rows it was about
   */
  during(edits: readonly RowEdit[], apply: () => void): ReadonlySet<string> {
    const before = finished(this.cellsBefore(edits));
    apply();
    return finished(this.follow(edits, before));
  }

  /** The cells that the rows of a change are found by before it, some rows at a time; undefined of a row that is not there. */
  *cellsBefore(edits: readonly RowEdit[]): Steps<readonly (string | undefined)[]> {
    const cells: (string | undefined)[] = [];
    for (const { id } of edits) {
      if (cells.length % A_STEP === A_STEP - 1) yield;
      cells.push(this.table.cellText(id, this.key));
    }
    return cells;
  }

  /** Follows a change that has been made, some rows at a time. @param before see `cellsBefore` @returns as `during` */
  *follow(edits: readonly RowEdit[], before: readonly (string | undefined)[]): Steps<ReadonlySet<string>> {
    const touched = new Set<string>();
    for (const [i, { id, after }] of edits.entries()) {
      if (i % A_STEP === A_STEP - 1) yield;
      const cell = before[i];
      if (cell !== undefined) touched.add(this.drop(id, cell));
      if (after) touched.add(this.add(id, after[this.key] ?? ''));
    }
    touched.delete('');
    return touched;
  }

  private add(id: number, cell: string): string {
    const key = keyOf(cell);
    if (key === '') return key;
    const rows = this.rows(key);
    if (rows.length === 0) this.byKey.set(key, id);
    else if (!rows.includes(id))
      this.byKey.set(key, rows[rows.length - 1] < id ? appended(rows, id) : sorted(rows, id));
    return key;
  }

  private drop(id: number, cell: string): string {
    const key = keyOf(cell);
    const left = this.rows(key).filter((one) => one !== id);
    if (left.length === 0) this.byKey.delete(key);
    else this.byKey.set(key, left.length === 1 ? left[0] : left);
    return key;
  }
}

/** Adds a row at the end of those of a key, in place where it can be: a key that many rows have is added to one by one. */
function appended(rows: readonly number[], id: number): number[] {
  const list = rows.length === 1 ? [...rows] : (rows as number[]);
  list.push(id);
  return list;
}

function sorted(rows: readonly number[], id: number): number[] {
  return [...rows, id].sort((a, b) => a - b);
}
