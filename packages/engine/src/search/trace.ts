/** The trace: how many matches lie in each of a number of equal parts of the whole table, in the order of the search. */
import { countBelow, countBetween, eachBit, hasBit } from '../store/index.js';
import type { Search } from './search.js';
import { View } from './view.js';

/** @returns `bins` counts; of a search that is not complete, as far as it went */
export function traceOf(search: Search, bins: number): number[] {
  const counts = new Array<number>(bins).fill(0);
  const total = search.table.rowCount;
  if (search.question.sort.length > 0) {
    let place = -1;
    for (const { segment, row } of new View(search).all()) {
      if (!hasBit(search.table.segments[segment].live, row)) continue;
      place++;
      if (search.matches[segment] && hasBit(search.matches[segment], row)) counts[Math.floor((place * bins) / total)]++;
    }
    return counts;
  }
  let before = 0;
  search.matches.forEach((matches, s) => {
    const { live, liveCount, rowCount } = search.table.segments[s];
    if (liveCount === rowCount) {
      // Where no row was removed a part of the table is a run of rows, and a run is counted at once.
      let counted = 0;
      for (let bin = Math.floor((before * bins) / total); bin < bins && counted < rowCount; bin++) {
        const end = Math.min(rowCount, Math.ceil(((bin + 1) * total) / bins) - before);
        counts[bin] += countBetween(matches, counted, end);
        counted = end;
      }
    } else {
      eachBit(matches, (row) => {
        counts[Math.floor(((before + countBelow(live, row)) * bins) / total)]++;
      });
    }
    before += liveCount;
  });
  return counts;
}
