/** Texts by the groups of their units, and by their last two: nothing that may matter is left out. */
import fc from 'fast-check';
import { ChunkPool, Trait } from '@usual-needle/engine';

const texts = fc.uniqueArray(
  fc.string({ unit: fc.constantFrom('a', 'B', 'b', 'z', '0', '5', '-', '~'), minLength: 1, maxLength: 6 }),
  { minLength: 1, maxLength: 80 },
);

describe('Chunks by the groups of their units', () => {
  it('are those that have a unit of any of the groups, or begin with one, unless they are too many', () => {
    fc.assert(
      fc.property(
        texts,
        fc.uniqueArray(fc.constantFrom('a', 'b', 'z', '0', '5', '-'), { maxLength: 3 }),
        (list, units) => {
          const pool = ChunkPool.of(list, 0);
          const groups = units.reduce((all, unit) => all | pool.unitGroups[unit.charCodeAt(0)], 0);
          const isGroup = (unit: string): boolean => (pool.unitGroups[unit.charCodeAt(0)] & groups) !== 0;
          const having = [...list.keys()].filter((i) => [...list[i]].some(isGroup));
          const beginning = [...list.keys()].filter((i) => isGroup(list[i][0]));
          expect(Array.from(pool.byGroup.having(groups, list.length) ?? [])).toEqual(having);
          expect(Array.from(pool.byGroup.beginning(groups, list.length) ?? [])).toEqual(beginning);
          expect(pool.byGroup.having(groups, having.length - 1)).toBeUndefined();
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
