/** The rows on show of a search in their order: where a place in the list is in the table, and where the next match is. */
import { permutation } from '../order/index.js';
import { countBelow, countBits, hasBit, nextBit, pickBits, previousBit } from '../store/index.js';
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

export class View {
  private readonly starts: number[] = [];
  /** Slots of the whole table in order; undefined for the table's own. */
  readonly slots: Uint32Array | undefined;

  constructor(readonly search: Search) {
    let slot = 0;
    for (const { rowCount } of search.table.segments) {
      this.starts.push(slot);
      slot += rowCount;
    }
    const { sort } = search.question;
    if (sort.length > 0) this.slots = permutation(search.table, sort, search.onShow);
  }

  private placeOf(slot: number): RowPlace {
    let low = 0;
    let high = this.starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >>> 1;
      if (this.starts[middle] <= slot) low = middle;
      else high = middle - 1;
    }
    return { segment: low, row: slot - this.starts[low] };
  }

  private isOn({ segment, row }: RowPlace): boolean {
    return segment < this.search.onShow.length && hasBit(this.search.onShow[segment], row);
  }

  /** All rows of the table in sorted order, on show or not, removed ones too. */
  *all(): Generator<RowPlace> {
    for (const slot of this.slots ?? []) yield this.placeOf(slot);
  }

  /** Rows on show from place `offset` of the list on. */
  rows(offset: number, limit: number): RowOnShow[] {
    return this.slots ? this.sortedRows(this.slots, offset, limit) : this.rowsInTableOrder(offset, limit);
  }

  private sortedRows(slots: Uint32Array, offset: number, limit: number): RowOnShow[] {
    const rows: RowOnShow[] = [];
    let skip = offset;
    let position = -1;
    for (const slot of slots) {
      if (rows.length >= limit) break;
      const place = this.placeOf(slot);
      if (hasBit(this.search.table.segments[place.segment].live, place.row)) position++;
      if (!this.isOn(place)) continue;
      if (skip > 0) skip--;
      else rows.push({ ...place, position });
    }
    return rows;
  }

  private rowsInTableOrder(offset: number, limit: number): RowOnShow[] {
    const rows: RowOnShow[] = [];
    let skip = offset;
    let before = 0;
    for (let segment = 0; segment < this.search.onShow.length && rows.length < limit; segment++) {
      const { live, liveCount } = this.search.table.segments[segment];
      const onShow = this.search.onShow[segment];
      const count = countBits(onShow);
      if (skip < count) {
        for (const row of pickBits(onShow, skip, limit - rows.length)) {
          rows.push({ segment, row, position: before + countBelow(live, row) });
        }
      }
      skip = Math.max(0, skip - count);
      before += liveCount;
    }
    return rows;
  }

  /** Place in the list of the first match after (or, backwards, before) place `from`; undefined if there is none. */
  nextMatch(from: number, backwards = false): number | undefined {
    return this.slots ? this.nextSorted(from, backwards) : this.nextInTableOrder(from, backwards);
  }

  private nextSorted(from: number, backwards: boolean): number | undefined {
    let index = -1;
    let last: number | undefined;
    for (const slot of this.slots!) {
      const place = this.placeOf(slot);
      if (!this.isOn(place)) continue;
      index++;
      if (backwards && index >= from) return last;
      if (!hasBit(this.search.matches[place.segment], place.row)) continue;
      if (!backwards && index > from) return index;
      last = index;
    }
    return backwards ? last : undefined;
  }

  private nextInTableOrder(from: number, backwards: boolean): number | undefined {
    const { onShow, matches } = this.search;
    const counts = onShow.map((rows) => countBits(rows));
    let before = backwards ? counts.reduce((sum, count) => sum + count, 0) : 0;
    const order = onShow.map((_, segment) => segment);
    if (backwards) order.reverse();
    for (const segment of order) {
      if (backwards) before -= counts[segment];
      const hits = matches[segment].map((word, i) => word & onShow[segment][i]);
      let row = backwards ? previousBit(hits, hits.length * 32 - 1) : nextBit(hits, 0);
      while (row >= 0) {
        const index = before + countBelow(onShow[segment], row);
        if (backwards ? index < from : index > from) return index;
        row = backwards ? previousBit(hits, row - 1) : nextBit(hits, row + 1);
      }
      if (!backwards) before += counts[segment];
    }
    return undefined;
  }

  /** Place in the list of a row by its id; undefined if it is not on show. */
  indexOf(id: number): number | undefined {
    const { table, onShow } = this.search;
    const segment = table.segments.findIndex((one, s) => s < onShow.length && one.find(id) >= 0);
    if (segment < 0) return undefined;
    const row = table.segments[segment].find(id);
    if (!hasBit(onShow[segment], row)) return undefined;
    if (!this.slots) {
      const before = onShow.slice(0, segment).reduce((sum, rows) => sum + countBits(rows), 0);
      return before + countBelow(onShow[segment], row);
    }
    let index = -1;
    for (const slot of this.slots) {
      const place = this.placeOf(slot);
      if (this.isOn(place)) index++;
      if (place.segment === segment && place.row === row) return index;
    }
    return undefined;
  }
}
