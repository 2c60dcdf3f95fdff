import fc from 'fast-check';
import {
  addRows,
  anyOf,
  asFew,
  common,
  countIn,
  emptyBits,
  FEW,
  hasRow,
  isFew,
  ownBits,
  pickBits,
  setBit,
  sizeOf,
  type Bits,
  type RowSet,
} from '@usual-needle/engine';

const ROWS = 5_000;

const bitsFrom = (rows: Iterable<number>): Bits => {
  const bits = emptyBits(ROWS);
  for (const row of rows) setBit(bits, row);
  return bits;
};
const listed = (rows: RowSet | undefined): number[] =>
  rows === undefined ? [] : isFew(rows) ? [...rows] : pickBits(rows, 0, ROWS);

describe('rows as a list or as bits', () => {
  const row = fc.nat(ROWS - 1);
  /** Both forms, also of rows that are just as many as are kept as a list, or one more. */
  const rows = fc.oneof(
    fc.uniqueArray(row, { minLength: 1, maxLength: 20 }),
    fc.uniqueArray(row, { minLength: FEW - 1, maxLength: FEW + 1 }),
    fc.nat(ROWS - 2_000).map((from) => Array.from({ length: 2_000 }, (_, i) => from + i)),
  );
  const sets = rows.chain((some) => {
    const rising = [...some].sort((a, b) => a - b);
    const bits = bitsFrom(some);
    return fc.constantFrom<[readonly number[], RowSet]>([rising, bits], [rising, asFew(bits)!]);
  });

  it('is a list where rows are few', () => {
    expect(asFew(emptyBits(ROWS))).toBeUndefined();
    expect(isFew(asFew(bitsFrom(Array(FEW).keys()))!)).toBeTrue();
    expect(isFew(asFew(bitsFrom(Array(FEW + 1).keys()))!)).toBeFalse();
  });

  it('are combined, counted and looked up as sets are, whichever form each has', () => {
    fc.assert(
      fc.property(sets, sets, row, ([a, one], [b, other], asked) => {
        const before = [listed(one), listed(other)];
        const both = a.filter((member) => b.includes(member));
        const any = [...new Set([...a, ...b])].sort((x, y) => x - y);
        expect(listed(common(one, other))).toEqual(both);
        expect(listed(anyOf([one, other], ROWS))).toEqual(any);
        expect(countIn(one, bitsFrom(b))).toBe(both.length);
        expect(sizeOf(one)).toBe(a.length);
        expect([hasRow(one, asked), hasRow(one, a[0])]).toEqual([a.includes(asked), true]);
        const added = bitsFrom(b);
        addRows(added, one);
        expect(listed(added)).toEqual(any);
        const own = ownBits(one, ROWS);
        own.fill(0);
        // None of it writes to what it was given.
        expect([listed(one), listed(other)]).toEqual(before);
      }),
      { numRuns: 300 },
    );
  });

  it('are none of none', () => {
    expect(anyOf([], ROWS)).toBeUndefined();
    expect(listed(ownBits(undefined, ROWS))).toEqual([]);
    const [a, b] = [Uint16Array.of(1, 2), Uint16Array.of(3)];
    expect(common(a, b)).toBeUndefined();
    expect(common(bitsFrom([1]), bitsFrom([2]))).toBeUndefined();
  });
});
