/**
 * Where the rows that there are stand among the slots of a table (see `Table.slotStarts`). It is the same for every search of a
 * moment, and so is worked out once for all of them.
 */
import { countBetween, countBits, firstAtLeast, ones, type Bits, type Table } from '../store/index.js';

/** Every how many slots the count before is noted, so that a far one is soon found. */
export const NOTED = 4_096;

/** How many members of a set are before every `NOTED`th slot, and at its end. */
export function notesOf(set: Bits): Uint32Array {
  const words = NOTED >>> 5;
  const count = Math.ceil(set.length / words);
  const notes = new Uint32Array(count + 1);
  for (let i = 0; i < count; i++) notes[i + 1] = notes[i] + countBits(set.subarray(i * words, (i + 1) * words));
  return notes;
}

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
  private readonly live: Bits;
  private readonly notes: Uint32Array;
  private parts: Uint32Array = new Uint32Array(0);

  private constructor(private readonly table: Table) {
    this.version = table.version;
    this.starts = Uint32Array.from(table.slotStarts);
    const sets = table.segments.map(({ live }) => live);
    this.live = sideBySide(sets, this.starts);
    this.notes = notesOf(this.live);
  }

  static of(table: Table): LiveRows {
    let rows = known.get(table);
    if (rows?.version !== table.version) known.set(table, (rows = new LiveRows(table)));
    return rows;
  }

  /** How many there are before a slot. */
  before(slot: number): number {
    const note = Math.floor(slot / NOTED);
    return this.notes[note] + countBetween(this.live, note * NOTED, slot);
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
    const { notes, live } = this;
    const note = firstAtLeast(notes, position + 1) - 1;
    let skip = position - notes[note];
    for (let i = (note * NOTED) >>> 5; i < live.length; i++) {
      const count = ones(live[i]);
      if (skip >= count) {
        skip -= count;
        continue;
      }
      let word = live[i];
      for (; skip > 0; skip--) word &= word - 1;
      return (i << 5) + 31 - Math.clz32(word & -word);
    }
    return this.starts[this.starts.length - 1];
  }
}
