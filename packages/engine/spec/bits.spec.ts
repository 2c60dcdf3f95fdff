import fc from 'fast-check';
import {
  countBetween,
  countBits,
  eachBit,
  emptyBits,
  fullBits,
  nextBit,
  pickBits,
  previousBit,
  setBit,
} from '@usual-needle/engine';

describe('bits', () => {
  const members = fc.uniqueArray(fc.nat(199), { maxLength: 200 }).map((list) => list.sort((a, b) => a - b));

  function setOf(list: readonly number[]): Uint32Array {
    const bits = emptyBits(200);
    for (const at of list) setBit(bits, at);
    return bits;
  }

  it('agree with a sorted list', () => {
    fc.assert(
      fc.property(members, fc.nat(200), fc.nat(50), (list, at, take) => {
        const bits = setOf(list);
        const seen: number[] = [];
        eachBit(bits, (one) => seen.push(one));
        expect(seen).toEqual(list);
        expect(countBits(bits)).toBe(list.length);
        const end = at + take;
        expect(countBetween(bits, at, end)).toBe(list.filter((one) => one >= at && one < end).length);
        expect(pickBits(bits, at, take)).toEqual(list.slice(at, at + take));
        expect(nextBit(bits, at)).toBe(list.find((one) => one >= at) ?? -1);
        expect(previousBit(bits, at)).toBe(list.filter((one) => one <= at).at(-1) ?? -1);
      }),
    );
  });

  it('are full up to their size and no further', () => {
    for (const size of [0, 1, 31, 32, 33, 64, 200]) expect(countBits(fullBits(size))).toBe(size);
  });
});
