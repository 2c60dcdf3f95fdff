/** Leads from rows to the distinct values of a column, and back. `codes` has each row's value. */
import { addBits, dropBits, emptyBits, fullBits, setBit, type Bits } from './bits.js';
import type { WholeBytes } from './bytes.js';
import { isFew, type RowSet } from './row-set.js';

// The two below go through the bits themselves: a function called for each would take longer than all else.

/** Marks the values of some rows with 1. */
export function markValues(codes: Uint16Array, rows: RowSet, marked: Uint8Array): void {
  if (isFew(rows)) {
    for (let i = 0; i < rows.length; i++) marked[codes[rows[i]]] = 1;
    return;
  }
  for (let i = 0; i < rows.length; i++) {
    for (let word = rows[i] | 0; word !== 0; word &= word - 1)
      marked[codes[(i << 5) + 31 - Math.clz32(word & -word)]] = 1;
  }
}

/** Rows of the values that passed, of some rows; undefined of none. @param passed 1 for those, else 0 */
export function rowsAmong(codes: Uint16Array, candidates: RowSet, passed: Uint8Array): RowSet | undefined {
  if (isFew(candidates)) {
    const few = candidates.filter((row) => passed[codes[row]] !== 0);
    return few.length > 0 ? few : undefined;
  }
  const rows = emptyBits(codes.length);
  let any = 0;
  for (let i = 0; i < candidates.length; i++) {
    for (let word = candidates[i] | 0; word !== 0; word &= word - 1) {
      const low = word & -word;
      if (passed[codes[(i << 5) + 31 - Math.clz32(low)]] !== 0) any |= rows[i] |= low;
    }
  }
  return any === 0 ? undefined : rows;
}

/** Codes two by two, read at once: the first of each is the lower half. */
function pairsOf(codes: Uint16Array): Int32Array {
  const { buffer, byteOffset } = codes.byteOffset % 4 === 0 ? codes : codes.slice();
  return new Int32Array(buffer, byteOffset, codes.length >>> 1);
}

/** Rows of the values that passed, of all rows; undefined of none. @param passed 1 for those, else 0 */
export function rowsOfPassed(codes: Uint16Array, passed: WholeBytes): Bits | undefined {
  const rows = emptyBits(codes.length);
  let any = 0;
  const whole = codes.length & ~31;
  const pairs = pairsOf(codes);
  // Without a branch, since which rows pass is not to be guessed, and several at a time.
  for (let row = 0; row < whole; row += 32) {
    let word = 0;
    for (let bit = 0, at = row >>> 1; bit < 32; bit += 8, at += 4) {
      const a = pairs[at];
      const b = pairs[at + 1];
      const c = pairs[at + 2];
      const d = pairs[at + 3];
      word |=
        (passed[a & 0xffff] |
          (passed[a >>> 16] << 1) |
          (passed[b & 0xffff] << 2) |
          (passed[b >>> 16] << 3) |
          (passed[c & 0xffff] << 4) |
          (passed[c >>> 16] << 5) |
          (passed[d & 0xffff] << 6) |
          (passed[d >>> 16] << 7)) <<
        bit;
    }
    rows[row >>> 5] = word;
    any |= word;
  }
  for (let row = whole; row < codes.length; row++) any |= rows[row >>> 5] |= passed[codes[row]] << (row & 31);
  return any === 0 ? undefined : rows;
}

/** The rows of each value. */
export function rowsOfEach(codes: Uint16Array, values: number): Bits[] {
  const rows = Array.from({ length: values }, () => emptyBits(codes.length));
  for (let row = 0; row < codes.length; row++) setBit(rows[codes[row]], row);
  return rows;
}

/** Does what `rowsOfPassed` does, of few values. @param rowsByValue rows of each */
export function rowsOfFew(rowsByValue: readonly Bits[], passed: Uint8Array, rowCount: number): Bits | undefined {
  const count = passed.reduce((sum, one) => sum + one, 0);
  if (count === 0) return undefined;
  const most = count > rowsByValue.length >>> 1;
  const rows = most ? fullBits(rowCount) : emptyBits(rowCount);
  rowsByValue.forEach((some, value) => {
    if (most && passed[value] === 0) dropBits(rows, some);
    else if (!most && passed[value] === 1) addBits(rows, some);
  });
  return rows;
}
