import fc from 'fast-check';
import {
  addBits,
  addMembers,
  countBetween,
  countBits,
  countCommon,
  dropBits,
  eachBit,
  emptyBits,
  fullBits,
  keepBits,
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

  it('are combined and counted whatever their size, also where nearly all are in', () => {
    const size = fc.integer({ min: 1, max: 700 });
    const pick = fc.tuple(size, fc.infiniteStream(fc.nat(9)), fc.constantFrom(0, 1, 8));
    fc.assert(
      fc.property(pick, ([many, digits, most]) => {
        const draw = (): number[] =>
          Array.from({ length: many }, (_, at) => at).filter(() => digits.next().value <= most);
        const [a, b] = [draw(), draw()];
        const set = (list: readonly number[]): Uint32Array => {
          const bits = emptyBits(many);
          for (const at of list) setBit(bits, at);
          return bits;
        };
        const inB = new Set(b);
        const combined = (combine: (target: Uint32Array, other: Uint32Array) => void): number[] => {
          const target = set(a);
          combine(target, set(b));
          return pickBits(target, 0, many);
        };
        const common = a.filter((at) => inB.has(at));
        expect(combined(addBits)).toEqual([...new Set([...a, ...b])].sort((x, y) => x - y));
        expect(combined(keepBits)).toEqual(common);
        expect(combined(dropBits)).toEqual(a.filter((at) => !inB.has(at)));
        expect(countCommon(set(a), set(b))).toBe(common.length);
        expect(countBits(set(a))).toBe(a.length);
        const [from, to] = [a.length >>> 2, a.length - (a.length >>> 3)];
        const target = set(b);
        addMembers(Uint16Array.from(a), from, to, target);
        expect(pickBits(target, 0, many)).toEqual([...new Set([...b, ...a.slice(from, to)])].sort((x, y) => x - y));
      }),
    );
  });

  it('are full up to their size and no further', () => {
    for (const size of [0, 1, 31, 32, 33, 64, 200]) expect(countBits(fullBits(size))).toBe(size);
  });
});
