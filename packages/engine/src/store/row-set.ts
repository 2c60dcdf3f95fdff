/**
 * Rows of one segment, as a bit a row or, where they are few, as a rising list. Most of what is asked hits few rows: a list of them takes
 * bytes where a bit for each row takes eight thousand, which would have to be cleared, gone through and collected.
 */
import { addBits, addMembers, countBits, countCommon, emptyBits, hasBit, type Bits } from './bits.js';
import { firstAtLeast } from './rising.js';

/** Rising rows; a segment has at most 65,536. */
export type FewRows = Uint16Array;
export type RowSet = Bits | FewRows;

/** The most rows that are kept as a list. */
export const FEW = 256;

export function isFew(rows: RowSet): rows is FewRows {
  return rows.BYTES_PER_ELEMENT === 2;
}

/** How many rows there are. */
export function sizeOf(rows: RowSet): number {
  return isFew(rows) ? rows.length : countBits(rows);
}

export function hasRow(rows: RowSet, row: number): boolean {
  if (!isFew(rows)) return hasBit(rows, row);
  const at = firstAtLeast(rows, row);
  return at < rows.length && rows[at] === row;
}

/** Adds rows to a set. */
export function addRows(target: Bits, rows: RowSet): void {
  if (isFew(rows)) addMembers(rows, 0, rows.length, target);
  else addBits(target, rows);
}

/** The rows as a set of bits of the caller's own. */
export function ownBits(rows: RowSet | undefined, rowCount: number): Bits {
  if (rows && !isFew(rows)) return rows.slice();
  const bits = emptyBits(rowCount);
  if (rows) addMembers(rows, 0, rows.length, bits);
  return bits;
}

/** How many rows are in a set of bits, too. */
export function countIn(rows: RowSet, bits: Bits): number {
  if (!isFew(rows)) return countCommon(rows, bits);
  let count = 0;
  for (let i = 0; i < rows.length; i++) count += (bits[rows[i] >>> 5] >>> (rows[i] & 31)) & 1;
  return count;
}

/** Rows that are in both; undefined if none is. Neither is written to, and the answer may be one of them. */
export function common(a: RowSet, b: RowSet): RowSet | undefined {
  if (isFew(a) || isFew(b)) {
    const [few, other] = isFew(a) ? [a, b] : [b as FewRows, a];
    const both = few.filter((row) => hasRow(other, row));
    return both.length > 0 ? both : undefined;
  }
  const both = a.slice();
  let any = 0;
  for (let i = 0; i < both.length; i++) any |= both[i] &= b[i];
  return any === 0 ? undefined : both;
}

/** Rows that are in any of some sets; undefined of none. A single set is given as it is. */
export function anyOf(sets: readonly RowSet[], rowCount: number): RowSet | undefined {
  if (sets.length < 2) return sets[0];
  let few = 0;
  for (const rows of sets) few += isFew(rows) ? rows.length : FEW + 1;
  if (few <= FEW) return rising(sets as readonly FewRows[], few);
  const all = emptyBits(rowCount);
  for (const rows of sets) addRows(all, rows);
  return all;
}

/** The rows of some lists, each once, in one list. @param most how many they are together */
function rising(lists: readonly FewRows[], most: number): FewRows {
  const all = new Uint16Array(most);
  let end = 0;
  for (const list of lists) {
    all.set(list, end);
    end += list.length;
  }
  all.sort();
  let kept = 0;
  for (let i = 0; i < all.length; i++) if (i === 0 || all[i] !== all[kept - 1]) all[kept++] = all[i];
  return kept === all.length ? all : all.slice(0, kept);
}

/** The same rows as a list where they are few; undefined if there are none. */
export function asFew(rows: Bits): RowSet | undefined {
  const count = countBits(rows);
  if (count === 0) return undefined;
  if (count > FEW) return rows;
  const few = new Uint16Array(count);
  let at = 0;
  for (let i = 0; i < rows.length; i++)
    for (let word = rows[i] | 0; word !== 0; word &= word - 1) few[at++] = (i << 5) + 31 - Math.clz32(word & -word);
  return few;
}
