/**
 * Where the rows that there are stand among the slots of a table (see `Table.slotStarts`). It is the same for every search of a
 * moment, and so is worked out once for all of them.
 */
import type { Bits, Table } from '../../store/index.js';
import { CountedSet } from '../chunks/counted-set.js';

/** Sets of the segments side by side. */
export function sideBySide(sets: readonly Bits[], starts: Uint32Array): Bits {
  const flat = new Uint32Array(starts[starts.length - 1] >>> 5);
  sets.forEach((set, s) => flat.set(set, starts[s] >>> 5));
  return flat;
}

const known = new WeakMap<Table, LiveRows>();

export class LiveRows {
  readonly starts: Uint32Array;
  private readonly version: number;
  private readonly live: CountedSet;
  private parts: Uint32Array = new Uint32Array(0);

  private constructor(private readonly table: Table) {
    this.version = table.version;
    this.starts = Uint32Array.from(table.slotStarts);
    const sets = table.segments.map(({ live }) => live);
    this.live = new CountedSet(sideBySide(sets, this.starts));
  }

  static of(table: Table): LiveRows {
    let rows = known.get(table);
    if (rows?.version !== table.version) known.set(table, (rows = new LiveRows(table)));
    return rows;
  }

  /** Tells how many there are before a slot. */
  before(slot: number): number {
    return this.live.before(slot);
  }

  /** Slots at which each of a number of equal parts of the table ends. */
  partEnds(count: number): Uint32Array {
    if (this.parts.length === count) return this.parts;
    const total = this.table.rowCount;
    this.parts = new Uint32Array(count).map((_, part) => this.slotAt(Math.ceil(((part + 1) * total) / count)));
    if (count > 0) this.parts[count - 1] = this.starts[this.starts.length - 1];
    return this.parts;
  }

  /** Slot of the row at a position, or where the slots end. */
  private slotAt(position: number): number {
    return this.live.from(position, 1)[0] ?? this.starts[this.starts.length - 1];
  }
}
