/** Texts by the kinds of their units, and by their last two: nothing that may matter is left out. */
import fc from 'fast-check';
import { ChunkPool, Trait } from '@usual-needle/engine';

const texts = fc.uniqueArray(
  fc.string({ unit: fc.constantFrom('a', 'B', 'b', 'z', '0', '5', '-', '~'), minLength: 1, maxLength: 6 }),
  { minLength: 1, maxLength: 80 },
);

describe('Chunks by the kinds of their units', () => {
  it('are those that have a unit of any of the kinds, or begin with one, unless they are too many', () => {
    fc.assert(
      fc.property(
        texts,
        fc.uniqueArray(fc.constantFrom('a', 'b', 'z', '0', '5', '-'), { maxLength: 3 }),
        (list, units) => {
          const pool = ChunkPool.of(list, 0);
          const kinds = units.reduce((all, unit) => all | pool.unitKinds[unit.charCodeAt(0)], 0);
          const isKind = (unit: string): boolean => (pool.unitKinds[unit.charCodeAt(0)] & kinds) !== 0;
          const having = [...list.keys()].filter((i) => [...list[i]].some(isKind));
          const beginning = [...list.keys()].filter((i) => isKind(list[i][0]));
          expect(Array.from(pool.byKind.having(kinds, list.length) ?? [])).toEqual(having);
          expect(Array.from(pool.byKind.beginning(kinds, list.length) ?? [])).toEqual(beginning);
          expect(pool.byKind.having(kinds, having.length - 1)).toBeUndefined();
        },
      ),
    );
  });

  it('have their last two units side by side, without the space after them', () => {
    const pool = ChunkPool.of(['a', 'ab', 'xyz ', 'b ', 'é', ' '], 0);
    const pair = (text: string): number => text.charCodeAt(1) | (text.charCodeAt(0) << 7);
    expect(Array.from(pool.lasts)).toEqual([97, pair('ab'), pair('yz'), 98, 0, 0]);
    expect(Array.from(pool.uneven)).toEqual([4, 5]);
    expect(pool.traits[2] & Trait.spaced).toBe(Trait.spaced);
  });
});
