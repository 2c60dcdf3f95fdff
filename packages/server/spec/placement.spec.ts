import { Placement } from '../dist/threads/placement.js';

describe('the placing of tables', () => {
  for (const [what, threads, tables, homes] of [
    ['puts all in the one thread that there is', 1, [50_000, 50_000], [0, 0]],
    ['begins another thread once those that there are have enough', 2, [50_000, 50_000, 20_000, 40_000], [0, 1, 0, 1]],
    ['begins none for small tables', 3, [4_000, 4_000, 50_000, 9_000], [0, 0, 0, 0]],
    ['puts small tables where the fewest rows are', 2, [50_000, 20_000, 10, 10], [0, 1, 1, 1]],
    ['takes one that nobody knows the size of for a large one', 2, [50_000, undefined, undefined], [0, 1, 1]],
    ['takes thirds of many', 3, [20_000, 20_000, 20_000, 20_000, 20_000, 20_000], [0, 1, 2, 0, 1, 2]],
  ] as const)
    it(what, () => {
      const placement = new Placement(threads);
      expect(tables.map((rows, id) => placement.place(id, rows))).toEqual([...homes]);
      expect(placement.homedIn(0)).toEqual(homes.flatMap((home, id) => (home === 0 ? [id] : [])));
    });

  it('keeps those together that borrow from each other, and leaves each where it is', () => {
    const placement = new Placement(2);
    placement.place(1, 50_000);
    expect(placement.place(2, 90_000, [7, 1])).toBe(0);
    expect(placement.place(3, 50_000)).toBe(1);
    expect(placement.place(2, 10, [3])).toBe(0);
    placement.forget(2);
    expect(placement.homeOf(2)).toBeUndefined();
    expect(placement.place(2, 10, [3])).toBe(1);
  });
});
