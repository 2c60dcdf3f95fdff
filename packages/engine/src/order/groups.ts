/**
 * Orders by how many rows on show share a value. Rows of one value are a group, and stand side by side where rows are sorted by it. What is
 * on show moves whole groups, so the order is put together from theirs, and nothing is sorted but the groups.
 */
import type { Bits } from '../store/index.js';
import { sortBy } from './counting-sort.js';
import type { Order } from './order.js';
import { LAST, type Ranks } from './ranks.js';

/** A group of fewer rows is copied row by row: to take a part of an array costs as much. */
const COPIED_WHOLE = 32;

/** How many rows on show each group has, by rank. @param onShow by slot */
export function sizesOnShow({ ranks, count }: Ranks, onShow: Bits): Uint32Array<ArrayBuffer> {
  const sizes = new Uint32Array(count);
  for (let i = 0; i < onShow.length; i++)
    for (let word = onShow[i] | 0; word !== 0; word &= word - 1) {
      const rank = ranks[(i << 5) + 31 - Math.clz32(word & -word)];
      if (rank !== LAST) sizes[rank]++;
    }
  return sizes;
}

/** Ranks of the groups, in the order of their sizes; those of one size in the order of their values. */
export function groupsBySize(sizes: Uint32Array, direction: 'up' | 'down'): Uint32Array<ArrayBuffer> {
  const most = sizes.reduce((all, size) => Math.max(all, size), 0);
  const ranks = Uint32Array.from(sizes, (_, rank) => rank);
  return sortBy(ranks, direction === 'up' ? sizes : sizes.map((size) => most - size), most + 1);
}

/** Finds where each group begins in an order by values, and where the last one ends: what follows is blank. */
export function beginningsOf(slots: Uint32Array, { ranks, count }: Ranks): Uint32Array<ArrayBuffer> {
  const starts = new Uint32Array(count + 1);
  for (let i = 0; i < slots.length; i++) {
    const rank = ranks[slots[i]];
    if (rank === LAST) break;
    starts[rank + 1]++;
  }
  for (let rank = 0; rank < count; rank++) starts[rank + 1] += starts[rank];
  return starts;
}

/**
 * The order in which groups come by their sizes.
 * @param base the rows by their values, up @param from see `beginningsOf` @param ranked by the same values @param onShow by slot
 */
export function inOrderOfGroups(
  base: Order,
  from: Uint32Array,
  ranked: Ranks,
  direction: 'up' | 'down',
  onShow: Bits,
): Order {
  const { ranks } = ranked;
  const slots = new Uint32Array(base.slots.length);
  /** Where each group begins now. */
  const starts = new Uint32Array(ranked.count);
  let at = 0;
  for (const rank of groupsBySize(sizesOnShow(ranked, onShow), direction)) {
    starts[rank] = at;
    const end = from[rank + 1];
    if (end - from[rank] >= COPIED_WHOLE) {
      slots.set(base.slots.subarray(from[rank], end), at);
      at += end - from[rank];
    } else for (let i = from[rank]; i < end; i++) slots[at++] = base.slots[i];
  }
  slots.set(base.slots.subarray(at), at);
  const position = (slot: number): number => {
    const rank = ranks[slot];
    return base.position(slot) + (rank === LAST ? 0 : starts[rank] - from[rank]);
  };
  return { slots, position };
}
