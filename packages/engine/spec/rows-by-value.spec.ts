/** The rows of a column's distinct values, as sets, as lists, or gone through row by row: always the same rows. */
import fc from 'fast-check';
import { PackReader, PackWriter, RowsByValue, wholeBytes, type Bits } from '@usual-needle/engine';

function rowsOf(bits: Bits | undefined, size: number): number[] {
  return Array.from({ length: size }, (_, row) => row).filter((row) => ((bits?.[row >>> 5] ?? 0) >>> (row & 31)) & 1);
}

/** Values are numbered as they come. */
function codesOf(cells: readonly number[]): Uint16Array {
  const numbers = new Map<number, number>();
  return Uint16Array.from(cells, (cell) => numbers.get(cell) ?? (numbers.set(cell, numbers.size), numbers.size - 1));
}

function repacked(one: RowsByValue, codes: Uint16Array, values: number): RowsByValue {
  const to = new PackWriter();
  one.pack(to);
  const bytes = new Uint8Array(to.numberParts.reduce((sum, part) => sum + part.byteLength, 0));
  to.numberParts.reduce((at, part) => (bytes.set(part, at), at + part.byteLength), 0);
  return RowsByValue.unpacked(new PackReader(bytes.buffer, new Uint8Array(0)), codes, values);
}

describe('Rows by value', () => {
  it('has the rows of all values that passed and of no other, however many they are, and after a pack too', () => {
    const columns = fc.tuple(fc.constantFrom(3, 64, 65, 90, 1_000_000), fc.nat()).map(([kinds, seed]) => {
      const cells = Array.from({ length: 500 }, (_, row) => ((row + 1) * (seed + 7)) % kinds);
      return codesOf(kinds > 500 ? cells.map((_, row) => row) : cells);
    });
    fc.assert(
      fc.property(columns, fc.constantFrom(0, 0.01, 0.05, 0.5, 0.97, 1), fc.nat(96), (codes, share, turn) => {
        const values = 1 + codes.reduce((most, code) => Math.max(most, code), 0);
        const passed = wholeBytes(values);
        for (let value = 0; value < values; value++) passed[value] = ((value * 37 + turn) % 97) / 97 < share ? 1 : 0;
        const expected = Array.from(codes.keys()).filter((row) => passed[codes[row]] === 1);
        const one = new RowsByValue(codes, values);
        for (const each of [one, repacked(one, codes, values)]) {
          const rows = each.of(passed);
          expect(rows === undefined || expected.length > 0).toBeTrue();
          expect(rowsOf(rows, codes.length)).toEqual(expected);
        }
      }),
      { numRuns: 120 },
    );
  });
});
