/**
 * The rows on show of a search in their order: where a place in the list is in the table, where the next match is, and where
 * in the whole the matches lie. All of it is worked out from typed arrays, by slot (see `Table.slotStarts`).
 */
import { permutation, type Order } from '../../order/index.js';
import {
  countBetween,
  eachBit,
  emptyBits,
  firstAtLeast,
  fullBits,
  hasBit,
  keepBits,
  nextBit,
  previousBit,
  setBit,
  type Bits,
} from '../../store/index.js';
import { CountedSet } from '../chunks/counted-set.js';
import { LiveRows, sideBySide } from './live-rows.js';
import type { Search } from '../search.js';

/** A row of a table: its segment, and its place in it. */
interface RowPlace {
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
  /** The place in the list, for each part, of the first row on show that lies in it or after it. */
  readonly starts: number[];
}

/** The share of changed rows, one in so many, up to which each is put to its place, and the order is not gone through. */
const SPARSE = 3;

/** The members of a set of slots by their places in an order. @param count how many they are */
function placesOf(set: Bits, count: number, order: Order): Bits {
  const { slots } = order;
  if (count === slots.length) return fullBits(count);
  const places = emptyBits(slots.length);
  if (count * SPARSE < slots.length) eachBit(set, (slot) => setBit(places, order.position(slot)));
  else
    for (let i = 0; i < slots.length; i++) {
      const slot = slots[i];
      places[i >>> 5] |= ((set[slot >>> 5] >>> (slot & 31)) & 1) << (i & 31);
    }
  return places;
}

/** Sets of a search, which nobody writes to: the only one needs no copy. */
function allOf(sets: readonly Bits[], starts: Uint32Array): Bits {
  const [only] = sets;
  return sets.length === 1 && only.length === starts[starts.length - 1] >>> 5 ? only : sideBySide(sets, starts);
}

export class View {
  private readonly live: LiveRows;
  /** Segments that were answered when this was made. */
  readonly upTo: number;
  /** The rows on show, by slot. */
  private readonly onShow: Bits;
  private builtMatches: Bits | undefined;
  /** The order of the rows; undefined in the table's own, where a row's place is its slot. */
  private readonly order: Order | undefined;
  /** The rows on show, by their places in the order. */
  private readonly list: CountedSet;
  private builtTrace: Trace | undefined;

  constructor(readonly search: Search) {
    const { table, question } = search;
    this.live = LiveRows.of(table);
    this.upTo = search.matches.length;
    this.onShow = allOf(search.onShow, this.live.starts);
    if (question.sort.length > 0) this.order = permutation(table, question.sort, () => this.onShow);
    this.list = new CountedSet(this.order ? placesOf(this.onShow, search.shown, this.order) : this.onShow);
  }

  private get matches(): Bits {
    return (this.builtMatches ??= allOf(this.search.matches.slice(0, this.upTo), this.live.starts));
  }

  /** The matches, by their places in the order. */
  private get matchPlaces(): Bits {
    const { order, search } = this;
    const { effect, flip } = search.question;
    if (effect === 'show only matches' && !flip) return this.list.bits;
    return order ? placesOf(this.matches, search.matched, order) : this.matches;
  }

  private slotAt(place: number): number {
    return this.order ? this.order.slots[place] : place;
  }

  private placeOf(slot: number): RowPlace {
    const { starts } = this.live;
    const segment = firstAtLeast(starts, slot + 1) - 1;
    return { segment, row: slot - starts[segment] };
  }

  /** Rows on show from place `offset` of the list on. */
  rows(offset: number, limit: number): RowOnShow[] {
    const { starts } = this.live;
    const rows: RowOnShow[] = [];
    let segment = 0;
    for (const place of this.list.from(offset, limit)) {
      const slot = this.slotAt(place);
      // In the table's own order the next row is seldom in another segment.
      if (slot < starts[segment] || slot >= starts[segment + 1]) segment = firstAtLeast(starts, slot + 1) - 1;
      const position = this.order ? place : this.live.before(slot);
      rows.push({ segment, row: slot - starts[segment], position });
    }
    return rows;
  }

  /** Slots of the rows on show from place `offset` of the list on. */
  slots(offset: number, limit: number): Uint32Array {
    const places = Uint32Array.from(this.list.from(offset, limit));
    return this.order ? places.map((place) => this.slotAt(place)) : places;
  }

  /** Place in the list of the first match after (or, backwards, before) place `from`; undefined if there is none. */
  nextMatch(from: number, backwards = false): number | undefined {
    const { bits } = this.list;
    const found = this.matchPlaces.slice();
    keepBits(found, bits);
    const end = bits.length * 32;
    const at = from < 0 ? -1 : (this.list.from(from, 1)[0] ?? end);
    const place = backwards ? previousBit(found, at - 1) : nextBit(found, at + 1);
    return place < 0 ? undefined : this.list.before(place);
  }

  /** True if the list is not in the table's own order. */
  get sorted(): boolean {
    return this.order !== undefined;
  }

  isMatch(slot: number): boolean {
    return hasBit(this.matches, slot);
  }

  rowAt(slot: number): RowOnShow {
    return { ...this.placeOf(slot), position: this.order ? this.order.position(slot) : this.live.before(slot) };
  }

  /** Counts the rows on show before a slot, in the table's own order. */
  countBefore(slot: number): number {
    return this.list.before(slot);
  }

  /** Place in the list of a slot; undefined if it is not on show. */
  placeInList(slot: number): number | undefined {
    if (!hasBit(this.onShow, slot)) return undefined;
    return this.list.before(this.order ? this.order.position(slot) : slot);
  }

  /** Worked out once: each window of a search that is scrolled through asks for it. */
  trace(bins: number): Trace {
    if (this.builtTrace?.hits.length !== bins) this.builtTrace = this.traceOf(bins);
    return this.builtTrace;
  }

  /** A part of the table is a run of places, and a run is counted word by word. */
  private traceOf(bins: number): Trace {
    const { bits } = this.list;
    const matches = this.matchPlaces;
    const hits: number[] = [];
    const starts: number[] = [];
    let before = 0;
    let place = 0;
    for (const end of this.partEnds(bins)) {
      const found = countBetween(matches, place, end);
      hits.push(found);
      starts.push(before);
      before += matches === bits ? found : countBetween(bits, place, end);
      place = end;
    }
    return { hits, starts };
  }

  private partEnds(bins: number): Uint32Array {
    if (!this.order) return this.live.partEnds(bins);
    const total = this.order.slots.length;
    return new Uint32Array(bins).map((_, bin) => Math.ceil(((bin + 1) * total) / bins));
  }
}
