/** The rows of a table in a sorted order: slots, first to last. Stable, several levels, blanks last both ways. */
import { hasBit, type Bits, type Table } from '../store/index.js';
import { LAST, placeOf, ranksOf, SPARE, type Ranks } from './ranks.js';

export interface SortLevel {
  readonly column: number;
  readonly direction: 'up' | 'down';
  /** By the value, or by how many rows on show share it. */
  readonly by: 'value' | 'count';
}

/** Permutations remembered per table. */
const KEPT = 8;
/** More changed rows than this are sorted anew with all others. */
const MENDED = 2_000;

/** One pass of a stable counting sort: `slots` by `keys`, rising, LAST at the end. */
function sortBy(slots: Uint32Array, keys: Uint32Array, count: number): Uint32Array<ArrayBuffer> {
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

/**
 * Ranks by how many rows on show share the value; groups of one size by their value, so that a group stays together.
 * @param onShow by slot
 */
function groupRanks({ ranks, count }: Ranks, direction: 'up' | 'down', onShow: Bits): Ranks {
  const sizes = new Uint32Array(count);
  for (let slot = 0; slot < ranks.length; slot++)
    if (ranks[slot] !== LAST && hasBit(onShow, slot)) sizes[ranks[slot]]++;
  const sign = direction === 'up' ? 1 : -1;
  const groups = Uint32Array.from({ length: count }, (_, rank) => rank).sort(
    (a, b) => sign * (sizes[a] - sizes[b]) || a - b,
  );
  const places = new Uint32Array(count);
  groups.forEach((rank, place) => (places[rank] = place));
  return { ranks: ranks.map((rank) => (rank === LAST ? LAST : places[rank])), count };
}

function reversed({ ranks, count }: Ranks): Ranks {
  return { ranks: ranks.map((rank) => (rank === LAST ? LAST : count - 1 - rank)), count };
}

/** All rows there are: their slots, in the table's own order. */
function liveSlots(table: Table): Uint32Array<ArrayBuffer> {
  const slots = new Uint32Array(table.rowCount);
  let at = 0;
  const starts = table.slotStarts;
  table.segments.forEach(({ live, rowCount }, s) => {
    for (let row = 0; row < rowCount; row++) if (hasBit(live, row)) slots[at++] = starts[s] + row;
  });
  return slots;
}

/** A table's rows in an order by values. */
class Permutation {
  slots: Uint32Array = new Uint32Array(0);
  /** What `slots` is the beginning of: there is room for some rows more. */
  private room: Uint32Array = this.slots;
  private builtPositions: Uint32Array | undefined;
  private version = -1;
  private structure = -1;

  constructor(
    private readonly table: Table,
    private readonly levels: readonly SortLevel[],
  ) {}

  current(): this {
    const { table } = this;
    if (this.version === table.version && this.structure === table.structure) return this;
    const edited = this.version < 0 ? undefined : table.editedSince(this.version, this.structure);
    const ranks = this.levels.map(({ column }) => ranksOf(table, column));
    if (!edited || edited.length > MENDED) this.make(ranks);
    else if (edited.length > 0) this.mend(edited, ranks);
    this.version = table.version;
    this.structure = table.structure;
    return this;
  }

  /** Place of each slot in the order; void for removed rows. */
  get positions(): Uint32Array {
    if (!this.builtPositions) {
      this.builtPositions = new Uint32Array(this.table.slotStarts.at(-1)! + SPARE);
      for (let i = 0; i < this.slots.length; i++) this.builtPositions[this.slots[i]] = i;
    }
    return this.builtPositions;
  }

  private make(ranks: readonly Ranks[]): void {
    let slots = liveSlots(this.table);
    for (let i = this.levels.length - 1; i >= 0; i--) {
      const level = this.levels[i].direction === 'up' ? ranks[i] : reversed(ranks[i]);
      slots = sortBy(slots, level.ranks, level.count);
    }
    this.room = this.slots = slots;
    this.builtPositions = undefined;
  }

  /** Takes the edited rows out, and puts those that are still there to their places. */
  private mend(edited: readonly number[], ranks: readonly Ranks[]): void {
    const compare = (a: number, b: number): number => {
      for (let i = 0; i < ranks.length; i++) {
        const [x, y] = [ranks[i].ranks[a], ranks[i].ranks[b]];
        if (x === y) continue;
        if (x === LAST || y === LAST) return x === LAST ? 1 : -1;
        return this.levels[i].direction === 'up' ? x - y : y - x;
      }
      return a - b;
    };
    const starts = this.table.slotStarts;
    const isLive = (slot: number): boolean => {
      let s = 0;
      while (starts[s + 1] <= slot) s++;
      return hasBit(this.table.segments[s].live, slot - starts[s]);
    };
    const positions = this.positionsOfAll();
    const gone = edited
      .map((slot) => positions[slot])
      .filter((at, i) => this.slots[at] === edited[i])
      .sort((a, b) => a - b);
    const back = edited.filter(isLive).sort(compare);
    if (gone.length === 1 && back.length === 1) this.move(gone[0], back[0], compare);
    else this.exchange(gone, back, compare);
  }

  private positionsOfAll(): Uint32Array {
    const { positions } = this;
    const end = this.table.slotStarts.at(-1)!;
    if (positions.length >= end) return positions;
    const more = new Uint32Array(end + SPARE);
    more.set(positions);
    return (this.builtPositions = more);
  }

  /** One row to another place: only what lies between moves. */
  private move(from: number, slot: number, compare: (a: number, b: number) => number): void {
    const { slots } = this;
    const positions = this.builtPositions!;
    // Among the others, which are in order on either side of it.
    const below = placeOf(slots.subarray(0, from), slot, compare);
    const to = below < from ? below : from + placeOf(slots.subarray(from + 1), slot, compare);
    if (to < from) slots.copyWithin(to + 1, to, from);
    else slots.copyWithin(from, from + 1, to + 1);
    slots[to] = slot;
    for (let i = Math.min(from, to), last = Math.max(from, to); i <= last; i++) positions[slots[i]] = i;
  }

  /** Takes out what is at some places, which rise, and puts rows in, which are in order. */
  private exchange(gone: readonly number[], back: readonly number[], compare: (a: number, b: number) => number): void {
    const before = this.slots.length;
    let kept = before;
    for (let i = gone.length - 1; i >= 0; i--) this.room.copyWithin(gone[i], gone[i] + 1, kept--);
    const places = back.map((slot) => placeOf(this.room.subarray(0, kept), slot, compare));
    const length = kept + back.length;
    if (length > this.room.length) {
      const room = new Uint32Array(length + SPARE);
      room.set(this.slots);
      this.room = room;
    }
    for (let i = back.length - 1, end = kept; i >= 0; i--) {
      this.room.copyWithin(places[i] + i + 1, places[i], end);
      this.room[places[i] + i] = back[i];
      end = places[i];
    }
    this.slots = this.room.subarray(0, length);
    const from = Math.min(gone[0] ?? Infinity, places[0] ?? Infinity);
    const last = Math.max(gone.at(-1) ?? 0, (places.at(-1) ?? 0) + places.length);
    const to = length === before ? Math.min(last + 1, length) : length;
    const positions = this.builtPositions!;
    for (let i = from; i < to; i++) positions[this.slots[i]] = i;
  }
}

export interface Order {
  /** Slots of the rows there are, first to last. */
  readonly slots: Uint32Array;
  /** By slot, its place in the order. */
  readonly positions: Uint32Array;
}

const remembered = new WeakMap<Table, Map<string, Permutation>>();

/**
 * The rows of a table in order. An order by values is remembered and mended; one by counts follows from what is on show.
 * @param onShow by slot: what levels by count count
 */
export function permutation(table: Table, levels: readonly SortLevel[], onShow: () => Bits): Order {
  if (levels.some(({ by }) => by === 'count')) return byCounts(table, levels, onShow());
  let orders = remembered.get(table);
  if (!orders) remembered.set(table, (orders = new Map()));
  const key = JSON.stringify(levels);
  const order = orders.get(key) ?? new Permutation(table, levels);
  orders.delete(key);
  orders.set(key, order);
  if (orders.size > KEPT) orders.delete(orders.keys().next().value!);
  return order.current();
}

function byCounts(table: Table, levels: readonly SortLevel[], onShow: Bits): Order {
  let slots = liveSlots(table);
  for (const { column, direction, by } of [...levels].reverse()) {
    const ranks = ranksOf(table, column);
    const level = by === 'count' ? groupRanks(ranks, direction, onShow) : direction === 'up' ? ranks : reversed(ranks);
    slots = sortBy(slots, level.ranks, level.count);
  }
  const positions = new Uint32Array(table.slotStarts.at(-1)!);
  for (let i = 0; i < slots.length; i++) positions[slots[i]] = i;
  return { slots, positions };
}
