/** Verdicts go four at a time: held against one at a time, whatever their number. */
import fc from 'fast-check';
import { countYes, hasUntold, HIT, NO, Said, settle, tell, UNTOLD, YES } from '../dist/search/chunks/verdicts.js';
import { bitsOf, ColumnSegment, hasBit, pickBits, wholeBytes, type WholeBytes } from '../dist/store/index.js';

const bytes = (...of: number[]): fc.Arbitrary<number[]> => fc.array(fc.constantFrom(...of), { maxLength: 1_300 });

function bytesOf(list: readonly number[]): WholeBytes {
  const made = wholeBytes(list.length);
  made.set(list);
  return made;
}

describe('verdicts', () => {
  it('are counted, also where more are asked than a byte holds', () => {
    fc.assert(
      fc.property(bytes(NO, YES, UNTOLD, HIT), (list) =>
        expect(countYes(bytesOf(list))).toBe(list.filter((one) => one === YES).length),
      ),
    );
    expect(countYes(wholeBytes(5_003).fill(YES))).toBe(5_003);
  });

  it('tell whether one cannot be told', () => {
    fc.assert(
      fc.property(bytes(NO, YES, HIT), fc.nat(1_300), (list, at) => {
        expect(hasUntold(bytesOf(list))).toBeFalse();
        if (list.length > 0) list[at % list.length] = UNTOLD;
        expect(hasUntold(bytesOf(list))).toBe(list.length > 0);
      }),
    );
  });

  it('are settled', () => {
    fc.assert(
      fc.property(bytes(NO, YES, UNTOLD, HIT), (list) => {
        const verdicts = bytesOf(list);
        settle(verdicts);
        expect([...verdicts]).toEqual(list.map((one) => (one === HIT ? YES : one)));
      }),
    );
  });

  it('are told by what chunks say: to be read where one is odd, else a hit, else to be read where one is open, or leads and another heeds', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom(NO, YES, HIT), fc.nat(31)), { maxLength: 1_300 }), (list) => {
        const verdicts = bytesOf(list.map(([asked]) => asked));
        tell(verdicts, bytesOf(list.map(([, said]) => said)));
        const expected = list.map(([asked, said]) => {
          if (asked !== YES) return asked;
          if ((said & Said.odd) !== 0) return YES;
          if ((said & Said.hit) !== 0) return HIT;
          const heeded = (said & Said.leads) !== 0 && (said & Said.heeds) !== 0;
          return (said & Said.open) !== 0 || heeded ? YES : NO;
        });
        expect([...verdicts]).toEqual(expected);
      }),
    );
  });

  it('become rows where each row has its own value', () => {
    fc.assert(
      fc.property(bytes(NO, YES), (list) => {
        const rows = bitsOf(bytesOf(list));
        expect(rows.length).toBe(Math.ceil(list.length / 32));
        expect(list.map((_, row) => Number(hasBit(rows, row)))).toEqual(list);
      }),
    );
  });

  it('become rows in columns of any number of values', () => {
    for (let size = 1; size < 150; size++) {
      const cells = Array.from({ length: size }, (_, row) => (row % 7 === 3 ? `é${row}` : row === 5 ? '' : `a${row}`));
      const column = ColumnSegment.of({ name: 'Text', kind: 'text' }, cells);
      column.build();
      const rowsOf = (test: (cell: string) => boolean): number[] =>
        cells.flatMap((cell, row) => (test(cell) ? [row] : []));
      expect(pickBits(column.rowsBeyondAscii, 0, size)).toEqual(rowsOf((cell) => cell.startsWith('é')));
      expect(pickBits(column.blankRows, 0, size)).toEqual(rowsOf((cell) => cell === ''));
    }
  });
});
