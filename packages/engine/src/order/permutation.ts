/** The rows of a table in a sorted order: slots, first to last. Stable, several levels, blanks last both ways. */
import { hasBit, type Bits, type Table } from '../store/index.js';
import { beginningsOf, groupsBySize, inOrderOfGroups, sizesOnShow } from './groups.js';
import { sortBy } from './counting-sort.js';
import { BlockedOrder } from './positions.js';
import type { Order } from './order.js';
import { LAST, placeOf, ranksOf, SPARE, type Ranks } from './ranks.js';

export interface SortLevel {
  readonly column: number;
  readonly direction: 'up' | 'down';
  /** The measure that rows are put in order by: the value, or how many rows on show share it. */
  readonly by: 'value' | 'count';
}

/** Permutations remembered per table. */
const KEPT = 8;
/** More changed rows than this are sorted anew with all others. */
const MENDED = 2_000;
/** The most changed rows that are put to their places one by one. */
const ONE_BY_ONE = 8;

/** Ranks by how many rows on show share the value. @param onShow by slot */
function groupRanks(ranked: Ranks, direction: 'up' | 'down', onShow: Bits): Ranks {
  const { ranks, count } = ranked;
  const places = new Uint32Array(count);
  groupsBySize(sizesOnShow(ranked, onShow), direction).forEach((rank, place) => (places[rank] = place));
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
  /** The array that `slots` is the beginning of: it has room for some rows more. */
  private room: Uint32Array = this.slots;
  private builtPositions: BlockedOrder | undefined;
  private builtBeginnings: Uint32Array | undefined;
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
    this.builtBeginnings = undefined;
    this.version = table.version;
    this.structure = table.structure;
    return this;
  }

  position(slot: number): number {
    return this.positions.of(slot);
  }

  /** Where each group of the first level's values begins. @param ranked by that level */
  beginnings(ranked: Ranks): Uint32Array {
    return (this.builtBeginnings ??= beginningsOf(this.slots, ranked));
  }

  private get positions(): BlockedOrder {
    return (this.builtPositions ??= new BlockedOrder(this.slots, this.table.slotStarts.at(-1)! + SPARE));
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
    // Rows were added that there is no room for.
    if (this.positions.room < starts[starts.length - 1]) this.builtPositions = undefined;
    const { positions } = this;
    const gone = edited
      .map((slot) => positions.of(slot))
      .filter((at, i) => this.slots[at] === edited[i])
      .sort((a, b) => a - b);
    const back = edited.filter(isLive).sort(compare);
    if (edited.length > ONE_BY_ONE) return this.exchange(gone, back, compare);
    for (const at of gone.reverse()) this.take(at);
    for (const slot of back) this.put(slot, placeOf(this.slots, slot, compare));
  }

  private setLength(length: number): void {
    if (length > this.room.length) {
      const room = new Uint32Array(length + SPARE);
      room.set(this.slots);
      this.room = room;
    }
    this.slots = this.room.subarray(0, length);
  }

  private take(at: number): void {
    this.slots.copyWithin(at, at + 1);
    this.setLength(this.slots.length - 1);
    this.positions.took(this.slots, at);
  }

  private put(slot: number, at: number): void {
    const { positions } = this;
    this.setLength(this.slots.length + 1);
    this.slots.copyWithin(at + 1, at);
    this.slots[at] = slot;
    if (!positions.put(this.slots, at)) this.builtPositions = undefined;
  }

  /** Takes out what is at some places, which rise, and puts rows in, which are in order. */
  private exchange(gone: readonly number[], back: readonly number[], compare: (a: number, b: number) => number): void {
    let kept = gone[0] ?? this.slots.length;
    gone.forEach((at, i) => {
      const next = gone[i + 1] ?? this.slots.length;
      this.slots.copyWithin(kept, at + 1, next);
      kept += next - at - 1;
    });
    this.setLength(kept);
    const places = back.map((slot) => placeOf(this.slots, slot, compare));
    this.setLength(kept + back.length);
    for (let i = back.length - 1, end = kept; i >= 0; i--) {
      this.slots.copyWithin(places[i] + i + 1, places[i], end);
      this.slots[places[i] + i] = back[i];
      end = places[i];
    }
    this.builtPositions = undefined;
  }
}

const remembered = new WeakMap<Table, Map<string, Permutation>>();

/**
 * The rows of a table in order. An order by values is remembered and mended; one by counts follows from what is on show.
 * @param onShow by slot: what levels by count count
 */
export function permutation(table: Table, levels: readonly SortLevel[], onShow: () => Bits): Order {
  const [{ by, column, direction }, ...others] = levels;
  if (others.some((level) => level.by === 'count')) return byCounts(table, levels, onShow());
  if (by === 'value') return byValues(table, levels);
  // Groups change their places; within them all stays as it is in the order by values.
  const base = byValues(table, [{ column, direction: 'up', by: 'value' }, ...others]);
  const ranked = ranksOf(table, column);
  return inOrderOfGroups(base, base.beginnings(ranked), ranked, direction, onShow());
}

function byValues(table: Table, levels: readonly SortLevel[]): Permutation {
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
  return { slots, position: (slot) => positions[slot] };
}
