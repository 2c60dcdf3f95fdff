/** Verdicts go four at a time: held against one at a time, whatever their number. */
import fc from 'fast-check';
import { countYes, HIT, NO, settle, tell, UNTOLD, YES } from '../dist/search/verdicts.js';
import { bitsOf, hasBit } from '../dist/store/index.js';

const bytes = (...of: number[]): fc.Arbitrary<number[]> => fc.array(fc.constantFrom(...of), { maxLength: 1_300 });

describe('verdicts', () => {
  it('are counted, also where more are asked than a byte holds', () => {
    fc.assert(
      fc.property(bytes(NO, YES, UNTOLD, HIT), (list) =>
        expect(countYes(Uint8Array.from(list))).toBe(list.filter((one) => one === YES).length),
      ),
    );
    expect(countYes(new Uint8Array(5_003).fill(YES))).toBe(5_003);
  });

  it('are settled', () => {
    fc.assert(
      fc.property(bytes(NO, YES, UNTOLD, HIT), (list) => {
        const verdicts = Uint8Array.from(list);
        settle(verdicts);
        expect([...verdicts]).toEqual(list.map((one) => (one === HIT ? YES : one)));
      }),
    );
  });

  it('are told by what chunks say: a hit alone, to be read where something is open, else none', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom(NO, YES), fc.nat(15)), { maxLength: 1_300 }), (list) => {
        const verdicts = Uint8Array.from(list, ([asked]) => asked);
        tell(
          verdicts,
          Uint8Array.from(list, ([, said]) => said),
        );
        const expected = list.map(([asked, said]) => {
          if (asked === NO) return NO;
          if ((said & 6) !== 0) return YES;
          return (said & 1) === 1 ? HIT : NO;
        });
        expect([...verdicts]).toEqual(expected);
      }),
    );
  });

  it('become rows where each row has its own value', () => {
    fc.assert(
      fc.property(bytes(NO, YES), (list) => {
        const rows = bitsOf(Uint8Array.from(list));
        expect(rows.length).toBe(Math.ceil(list.length / 32));
        expect(list.map((_, row) => Number(hasBit(rows, row)))).toEqual(list);
      }),
    );
  });
});
