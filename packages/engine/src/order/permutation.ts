/** The rows of a table in a sorted order: slots, first to last. Stable, several levels, blanks last both ways. */
import { eachBit, type Bits, type Table } from '../store/index.js';
import { LAST, ranksOf, type Ranks } from './ranks.js';

export interface SortLevel {
  readonly column: number;
  readonly direction: 'up' | 'down';
  /** By the value, or by how many rows on show share it. */
  readonly by: 'value' | 'count';
}

/** One pass of a stable counting sort: `slots` by `keys`, rising, LAST at the end. */
function sortBy(slots: Uint32Array, keys: Uint32Array, count: number): Uint32Array {
  const starts = new Uint32Array(count + 2);
  const bucket = (slot: number): number => (keys[slot] === LAST ? count : keys[slot]);
  for (let i = 0; i < slots.length; i++) starts[bucket(slots[i]) + 1]++;
  for (let i = 0; i <= count; i++) starts[i + 1] += starts[i];
  const sorted = new Uint32Array(slots.length);
  for (let i = 0; i < slots.length; i++) sorted[starts[bucket(slots[i])]++] = slots[i];
  return sorted;
}

/** Keys that rise where the level's order goes on. */
function keysOf(table: Table, level: SortLevel, onShow: readonly Bits[]): Ranks {
  const { ranks, count } = ranksOf(table, level.column);
  let keys = ranks;
  let highest = count;
  if (level.by === 'count') {
    const sizes = new Uint32Array(count);
    let slot = 0;
    table.segments.forEach(({ rowCount }, s) => {
      const from = slot;
      if (onShow[s]) eachBit(onShow[s], (row) => ranks[from + row] !== LAST && sizes[ranks[from + row]]++);
      slot += rowCount;
    });
    keys = ranks.map((rank) => (rank === LAST ? LAST : sizes[rank]));
    highest = sizes.reduce((most, size) => Math.max(most, size), 0) + 1;
  }
  if (level.direction === 'up') return { ranks: keys, count: highest };
  return { ranks: keys.map((key) => (key === LAST ? LAST : highest - 1 - key)), count: highest };
}

const remembered = new WeakMap<Table, { version: number; orders: Map<string, Uint32Array> }>();

/** Permutations remembered per table. */
const KEPT = 8;

/**
 * All slots of the table in order.
 * @param onShow rows on show per segment: what levels by count count
 */
export function permutation(table: Table, levels: readonly SortLevel[], onShow: readonly Bits[]): Uint32Array {
  const counting = levels.some(({ by }) => by === 'count');
  let memory = remembered.get(table);
  if (!memory || memory.version !== table.version) {
    memory = { version: table.version, orders: new Map() };
    remembered.set(table, memory);
  }
  const key = JSON.stringify(levels);
  const known = counting ? undefined : memory.orders.get(key);
  if (known) return known;
  const size = table.segments.reduce((sum, { rowCount }) => sum + rowCount, 0);
  let slots = Uint32Array.from({ length: size }, (_, slot) => slot);
  for (const level of [...levels].reverse()) {
    const { ranks, count } = keysOf(table, level, onShow);
    slots = sortBy(slots, ranks, count) as Uint32Array<ArrayBuffer>;
  }
  if (!counting) {
    if (memory.orders.size >= KEPT) memory.orders.delete(memory.orders.keys().next().value!);
    memory.orders.set(key, slots);
  }
  return slots;
}
