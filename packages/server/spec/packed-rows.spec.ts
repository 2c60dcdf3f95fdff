import fc from 'fast-check';
import { packed, unpacked } from '../dist/take-out/packed-rows.js';

describe('packed rows', () => {
  it('come out as they went in', () => {
    const mark = fc.tuple(fc.nat(3), fc.nat(9), fc.nat(9), fc.nat(5));
    const rows = fc.tuple(fc.integer({ min: 1, max: 4 }), fc.boolean()).chain(([width, marked]) =>
      fc.array(
        fc.record({
          id: fc.maxSafeNat(),
          cells: fc.array(fc.string({ unit: 'binary' }), { minLength: width, maxLength: width }),
          ...(marked && { marks: fc.array(mark) }),
        }),
      ),
    );
    fc.assert(fc.property(rows, (some) => expect(unpacked(packed(some))).toEqual(some)));
  });
});
