/** The trace: how many matches lie in each of a number of equal parts of the whole table, in its own order. */
import { countBelow, eachBit } from '../store/index.js';
import type { Search } from './search.js';

/** @returns `bins` counts; the rows of a search that is not complete count as far as it went */
export function traceOf(search: Search, bins: number): number[] {
  const counts = new Array<number>(bins).fill(0);
  const total = search.table.rowCount;
  let before = 0;
  search.matches.forEach((matches, s) => {
    const { live, liveCount, rowCount } = search.table.segments[s];
    const whole = liveCount === rowCount;
    eachBit(matches, (row) => {
      const place = before + (whole ? row : countBelow(live, row));
      counts[Math.floor((place * bins) / total)]++;
    });
    before += liveCount;
  });
  return counts;
}
