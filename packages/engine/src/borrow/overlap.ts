/** How well the cells of one column find rows of another table: what a borrowing would come to, and which to suggest. */
import type { Table } from '../store/index.js';
import type { Steps } from '../steps.js';
import { keyOf } from '../text/index.js';
import type { Lender } from './lender.js';

interface Overlap {
  /** Rows of the borrowing table. */
  readonly rows: number;
  /** Rows that find one; the others find none. */
  readonly found: number;
  /** Keys that some row asks for and that stand in several rows of the lender. */
  readonly twice: number;
}

/** Rests now and then. */
const AT_ONCE = 4_096;

/** Looks every row up. */
export function* overlapSteps(table: Table, column: number, lender: Lender): Steps<Overlap> {
  let [rows, found] = [0, 0];
  const twice = new Set<string>();
  for (const { cell } of table.cellsOf(column)) {
    if (++rows % AT_ONCE === 0) yield;
    const key = keyOf(cell);
    const fitting = key === '' ? 0 : lender.rows(key).length;
    if (fitting > 0) found++;
    if (fitting > 1) twice.add(key);
  }
  return { rows, found, twice: twice.size };
}

/** Distinct keys of a column, up to so many. */
export function* someKeys(table: Table, column: number, most: number): Steps<ReadonlySet<string>> {
  const keys = new Set<string>();
  for (const segment of table.segments) {
    let at = 0;
    for (const text of segment.columns[column].currentTexts()) {
      if (++at % AT_ONCE === 0) yield;
      const key = keyOf(text);
      if (key !== '') keys.add(key);
      if (keys.size >= most) return keys;
    }
  }
  return keys;
}

/** Tells whether a column tells rows apart well enough to be looked up by: as far as its first rows tell. */
export function isNearlyUnique(table: Table, column: number): boolean {
  const [segment] = table.segments;
  return segment !== undefined && segment.columns[column].valueCount >= segment.rowCount * UNIQUE;
}

/** The share of rows that are to have a value of their own. */
const UNIQUE = 0.9;
