/**
 * The rows on show of a search in their order: where a place in the list is in the table, where the next match is, and where
 * in the whole the matches lie. All of it is worked out from typed arrays, by slot (see `Table.slotStarts`).
 */
import { permutation, type Order } from '../order/index.js';
import { countBetween, eachBit, firstAtLeast, hasBit, type Bits } from '../store/index.js';
import { LiveRows, NOTED, notesOf, sideBySide } from './live-rows.js';
import type { Search } from './search.js';

/** A row of a table: its segment, and its place in it. */
export interface RowPlace {
  readonly segment: number;
  readonly row: number;
}

/** A row on show, and where it stands among all rows of the table in the search's order, from 0. */
export interface RowOnShow extends RowPlace {
  readonly position: number;
}

/** Where matches lie, in equal parts of the whole table, first to last. */
export interface Trace {
  /** Matches in each part. */
  readonly hits: number[];
  /** For each part, the place in the list of the first row on show that lies in it or after it. */
  readonly starts: number[];
}

/** A list that is longer than this is found by walking the whole order, a shorter one by sorting it. */
const SHORT = 16_384;

export class View {
  private readonly live: LiveRows;
  /** Segments that were answered when this was made. */
  readonly upTo: number;
  private readonly onShow: Bits;
  private readonly matches: Bits;
  /** In the table's own order there is none, and a place is found by counting. */
  private readonly order: Order | undefined;
  private sortedList: Uint32Array | undefined;
  private builtNotes: Uint32Array | undefined;
  private builtTrace: Trace | undefined;

  constructor(readonly search: Search) {
    const { table, question } = search;
    this.live = LiveRows.of(table);
    this.upTo = search.matches.length;
    this.onShow = sideBySide(search.onShow, this.live.starts);
    this.matches = sideBySide(search.matches, this.live.starts);
    if (question.sort.length > 0) this.order = permutation(table, question.sort, () => this.onShow);
  }

  private placeOf(slot: number): RowPlace {
    const { starts } = this.live;
    const segment = firstAtLeast(starts, slot + 1) - 1;
    return { segment, row: slot - starts[segment] };
  }

  /** Slots on show, in the order of the search. */
  private get list(): Uint32Array {
    if (this.sortedList) return this.sortedList;
    const { shown } = this.search;
    const list = new Uint32Array(shown);
    let at = 0;
    if (!this.order) eachBit(this.onShow, (slot) => (list[at++] = slot));
    else if (shown === this.order.slots.length) return (this.sortedList = this.order.slots);
    else if (shown <= SHORT) {
      const { slots, positions } = this.order;
      eachBit(this.onShow, (slot) => (list[at++] = positions[slot]));
      list.sort();
      for (let i = 0; i < list.length; i++) list[i] = slots[list[i]];
    } else for (const slot of this.order.slots) if (hasBit(this.onShow, slot)) list[at++] = slot;
    return (this.sortedList = list);
  }

  /** Rows on show before every `NOTED`th slot. */
  private get notes(): Uint32Array {
    return (this.builtNotes ??= notesOf(this.onShow));
  }

  private positionOf(slot: number): number {
    return this.order ? this.order.positions[slot] : this.live.before(slot);
  }

  /** Rows on show from place `offset` of the list on. */
  rows(offset: number, limit: number): RowOnShow[] {
    const slots = this.order ? this.list.subarray(offset, offset + limit) : this.slotsInTableOrder(offset, limit);
    return Array.from(slots, (slot) => this.rowAt(slot));
  }

  private slotsInTableOrder(offset: number, limit: number): number[] {
    const { notes } = this;
    let note = 0;
    while (note + 1 < notes.length && notes[note + 1] <= offset) note++;
    let skip = offset - notes[note];
    const slots: number[] = [];
    for (let i = (note * NOTED) >>> 5; i < this.onShow.length && slots.length < limit; i++) {
      for (let word = this.onShow[i]; word !== 0 && slots.length < limit; word &= word - 1) {
        if (skip > 0) skip--;
        else slots.push((i << 5) + 31 - Math.clz32(word & -word));
      }
    }
    return slots;
  }

  /** Place in the list of the first match after (or, backwards, before) place `from`; undefined if there is none. */
  nextMatch(from: number, backwards = false): number | undefined {
    const { list } = this;
    const by = backwards ? -1 : 1;
    for (let at = Math.min(list.length, Math.max(-1, from)) + by; at >= 0 && at < list.length; at += by) {
      if (hasBit(this.matches, list[at])) return at;
    }
    return undefined;
  }

  /** True if the list is not in the table's own order. */
  get sorted(): boolean {
    return this.order !== undefined;
  }

  isMatch(slot: number): boolean {
    return hasBit(this.matches, slot);
  }

  rowAt(slot: number): RowOnShow {
    return { ...this.placeOf(slot), position: this.positionOf(slot) };
  }

  /** In the table's own order: rows on show before a slot. */
  countBefore(slot: number): number {
    const note = Math.floor(slot / NOTED);
    return this.notes[note] + countBetween(this.onShow, note * NOTED, slot);
  }

  /** Place in the list of a slot; undefined if it is not on show. */
  placeInList(slot: number): number | undefined {
    if (!hasBit(this.onShow, slot)) return undefined;
    if (!this.order) return this.countBefore(slot);
    const { list } = this;
    const { positions } = this.order;
    let low = 0;
    let high = list.length - 1;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (positions[list[middle]] < positions[slot]) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Worked out once: each window of a search that is scrolled through asks for it. */
  trace(bins: number): Trace {
    if (this.builtTrace?.hits.length !== bins)
      this.builtTrace = this.order ? this.sortedTrace(this.order, bins) : this.traceInTableOrder(bins);
    return this.builtTrace;
  }

  private sortedTrace({ slots, positions }: Order, bins: number): Trace {
    const total = slots.length;
    const { matched, shown } = this.search;
    if (matched <= SHORT && shown <= SHORT) return this.shortTrace(positions, total, bins);
    const { matches, onShow } = this;
    const hits = new Array<number>(bins).fill(0);
    const starts = new Array<number>(bins).fill(0);
    let before = 0;
    for (let bin = 0, i = 0; bin < bins; bin++) {
      const end = Math.ceil(((bin + 1) * total) / bins);
      starts[bin] = before;
      let found = 0;
      for (; i < end; i++) {
        const slot = slots[i];
        found += (matches[slot >>> 5] >>> (slot & 31)) & 1;
        before += (onShow[slot >>> 5] >>> (slot & 31)) & 1;
      }
      hits[bin] = found;
    }
    return { hits, starts };
  }

  /** Of few rows, each is looked at, and not all that there are. */
  private shortTrace(positions: Uint32Array, total: number, bins: number): Trace {
    const hits = new Array<number>(bins).fill(0);
    const starts = new Array<number>(bins).fill(0);
    const binOf = (slot: number): number => Math.floor((positions[slot] * bins) / total);
    eachBit(this.matches, (slot) => hits[binOf(slot)]++);
    const { list } = this;
    let next = 0;
    for (let i = 0; i < list.length; i++) for (const bin = binOf(list[i]); next <= bin; next++) starts[next] = i;
    starts.fill(list.length, next);
    return { hits, starts };
  }

  /** A part of the table is a run of slots, and a run is counted word by word. */
  private traceInTableOrder(bins: number): Trace {
    const { effect, flip } = this.search.question;
    const same = effect === 'show only matches' && !flip;
    const hits: number[] = [];
    const starts: number[] = [];
    let before = 0;
    let slot = 0;
    for (const end of this.live.partEnds(bins)) {
      const found = countBetween(this.matches, slot, end);
      hits.push(found);
      starts.push(before);
      before += same ? found : countBetween(this.onShow, slot, end);
      slot = end;
    }
    return { hits, starts };
  }
}
