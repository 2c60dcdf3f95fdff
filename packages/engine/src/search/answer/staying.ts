/**
 * A list in which some rows stay where their reader saw them, though by what they hold now they would be elsewhere, or not in it
 * at all: a row that was just edited does not jump away from under its keeper. In the table's own order nothing moves, so there
 * they are only added.
 */
import type { RowOnShow, View } from './view.js';

/** A row, and the place in the list it stays at. */
export interface Stay {
  readonly id: number;
  readonly index: number;
  /** True if it goes to its own place where it has one, and stays only if it has none any more. */
  readonly moves?: boolean;
}

/** A row of such a list. */
export interface StayingRow extends RowOnShow {
  /** True if it is in the list only because it stays there. */
  readonly left: boolean;
}

interface PlacedRow {
  readonly slot: number;
  /** The row's place in the list with the rows that stay. */
  index: number;
  /** Where the view has it by itself; undefined if it has not. */
  readonly base: number | undefined;
}

export class Staying {
  private readonly stays: readonly PlacedRow[];
  /** Places of staying rows in the view's own list, rising. */
  private readonly bases: readonly number[];
  /** Rows in the list. */
  readonly shown: number;

  constructor(
    private readonly view: View,
    stays: readonly Stay[],
  ) {
    const { table, shown } = view.search;
    const seen = new Set<number>();
    const placed: PlacedRow[] = [];
    for (const { id, index, moves } of stays) {
      const slot = table.slotOf(id);
      if (slot === undefined || seen.has(slot)) continue;
      seen.add(slot);
      const base = view.placeInList(slot);
      if (!moves || base === undefined) placed.push({ slot, index, base });
    }
    this.bases = placed.flatMap(({ base }) => base ?? []).sort((a, b) => a - b);
    this.shown = shown + placed.length - this.bases.length;
    if (view.sorted) placed.sort((a, b) => a.index - b.index);
    else {
      placed.sort((a, b) => a.slot - b.slot);
      let added = 0;
      for (const one of placed) {
        one.index = one.base === undefined ? view.countBefore(one.slot) + added : one.base + added;
        if (one.base === undefined) added++;
      }
    }
    // Each at a place of its own, and none beyond the end.
    for (let i = 0, next = 0; i < placed.length; i++) {
      placed[i].index = Math.max(next, placed[i].index);
      next = placed[i].index + 1;
    }
    for (let i = placed.length - 1, last = this.shown - 1; i >= 0; i--) {
      placed[i].index = Math.min(last, placed[i].index);
      last = placed[i].index - 1;
    }
    this.stays = placed;
  }

  /** How many of them would be elsewhere, or not in the list. */
  get misplaced(): number {
    return this.stays.filter(({ base, index }) => base !== index).length;
  }

  /** Place in this list of a row; undefined if it is not in it. */
  placeOf(id: number): number | undefined {
    const slot = this.view.search.table.slotOf(id);
    if (slot === undefined) return undefined;
    const stay = this.stays.find((one) => one.slot === slot);
    if (stay) return stay.index;
    const base = this.view.placeInList(slot);
    return base === undefined ? undefined : this.indexOf(base);
  }

  /** Rows from place `offset` of the list on. */
  rows(offset: number, limit: number): StayingRow[] {
    const end = Math.min(this.shown, offset + limit);
    const wanted: (PlacedRow | number)[] = [];
    let next = this.stays.findIndex(({ index }) => index >= offset);
    if (next < 0) next = this.stays.length;
    for (let at = offset; at < end; at++) {
      if (this.stays[next]?.index === at) wanted.push(this.stays[next++]);
      else wanted.push(this.baseOf(at - next));
    }
    const places = wanted.filter((one): one is number => typeof one === 'number');
    const first = places.length > 0 ? places[0] : 0;
    const others = places.length > 0 ? this.view.rows(first, places[places.length - 1] - first + 1) : [];
    return wanted.map((one) =>
      typeof one === 'number'
        ? { ...others[one - first], left: false }
        : { ...this.view.rowAt(one.slot), left: one.base === undefined },
    );
  }

  /** Place in the view's own list of the `reduced`th row of those that do not stay. */
  private baseOf(reduced: number): number {
    let base = reduced;
    for (const one of this.bases) {
      if (one > base) break;
      base++;
    }
    return base;
  }

  /** Does what `View.nextMatch` does, with places in this list. */
  nextMatch(from: number, backwards = false): number | undefined {
    const beyond = this.stays.filter(
      ({ index, slot }) => (backwards ? index < from : index > from) && this.view.isMatch(slot),
    );
    const stay = (backwards ? beyond.at(-1) : beyond[0])?.index;
    // Of the others, the first one beyond: by its place among them, then in the view's own list.
    const before = this.stays.filter(({ index }) => (backwards ? index < from : index <= from)).length;
    const reduced = backwards ? Math.min(from, this.shown) - before - 1 : Math.max(-1, from) + 1 - before;
    let base: number | undefined;
    if (reduced >= 0) {
      base = this.view.nextMatch(this.baseOf(reduced) + (backwards ? 1 : -1), backwards);
      while (base !== undefined && this.bases.includes(base)) base = this.view.nextMatch(base, backwards);
    }
    const other = base === undefined ? undefined : this.indexOf(base);
    if (stay === undefined || other === undefined) return stay ?? other;
    return backwards ? Math.max(stay, other) : Math.min(stay, other);
  }

  /** Place in this list of a place in the view's own list. */
  private indexOf(base: number): number {
    let index = base - this.bases.filter((one) => one < base).length;
    for (const one of this.stays) if (one.index <= index) index++;
    return index;
  }
}
