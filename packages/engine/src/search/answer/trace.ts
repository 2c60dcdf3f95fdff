/** The trace: how many matches lie in each of a number of equal parts of the whole table, in the order of the search. */
import type { Search } from '../search.js';
import type { Trace } from './view.js';

/** Works the trace out; of a search that is not complete, as far as it went. */
export function traceOf(search: Search, bins: number): Trace {
  return search.view.trace(bins);
}
