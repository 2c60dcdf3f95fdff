/** Sorting by numbers of which there are few, or that lie close. */
import { LAST } from './ranks.js';

/** Does one pass of a stable counting sort: `slots` by `keys`, rising, LAST at the end. */
export function sortBy(slots: Uint32Array, keys: Uint32Array, count: number): Uint32Array<ArrayBuffer> {
  const starts = new Uint32Array(count + 2);
  for (let i = 0; i < slots.length; i++) {
    const key = keys[slots[i]];
    starts[(key === LAST ? count : key) + 1]++;
  }
  for (let i = 0; i <= count; i++) starts[i + 1] += starts[i];
  const sorted = new Uint32Array(slots.length);
  for (let i = 0; i < slots.length; i++) {
    const key = keys[slots[i]];
    sorted[starts[key === LAST ? count : key]++] = slots[i];
  }
  return sorted;
}
