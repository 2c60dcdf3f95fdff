/**
 * The rows on show of a search as they are at one moment, to be read out little by little, however the table changes meanwhile.
 * A segment is copied for it, which costs no more than what was changed in it since it was built: cells and indexes are shared.
 */
import { firstAtLeast, hasBit, type Bits, type Segment } from '../../store/index.js';
import type { Search } from '../search.js';
import { LiveRows } from './live-rows.js';
import { SegmentMarks, type Mark } from './marks.js';

/** A row of a snapshot. */
export interface SnapshotRow {
  readonly id: number;
  /** True if it is a match of what was typed. */
  readonly match: boolean;
  /** Stored texts of the columns asked for. */
  readonly cells: readonly string[];
  /** Columns are numbered as they were asked for. */
  readonly marks: readonly Mark[];
}

/** The rows that are wanted of a list: a stretch of it, or those of some ids. */
export type WantedRows = { readonly offset?: number; readonly limit?: number } | { readonly ids: readonly number[] };

/** Slots of rows by their ids, in the order of the list; those that are not in it come last, in the table's own order. */
function slotsOf({ table, view }: Search, ids: readonly number[]): Uint32Array {
  const slots = [...new Set(ids)].flatMap((id) => table.slotOf(id) ?? []);
  const places = new Map(slots.map((slot) => [slot, view.placeInList(slot) ?? Infinity]));
  return Uint32Array.from(slots.sort((a, b) => places.get(a)! - places.get(b)! || a - b));
}

export class Snapshot {
  private readonly segments: readonly Segment[];
  private readonly starts: Uint32Array;
  private readonly matches: readonly Bits[];
  private readonly slots: Uint32Array;
  private readonly numbers: ReadonlyMap<number, number>;
  private readonly leaves: Search['leaves'];

  /**
   * @param search a whole one, of the table as it is now
   * @param columns numbers of the columns that are read @param isIn whether a row is wanted, by its slot
   */
  constructor(
    search: Search,
    private readonly columns: readonly number[],
    wanted: WantedRows = {},
    isIn: (slot: number) => boolean = () => true,
  ) {
    const { table, view } = search;
    this.segments = table.segments.map((segment) => segment.copy());
    this.starts = LiveRows.of(table).starts;
    this.matches = search.matches.map((rows) => rows.slice());
    this.leaves = search.asks ? search.leaves : [];
    this.numbers = new Map(columns.map((column, i) => [column, i]));
    const { ids } = wanted as { ids?: readonly number[] };
    const { offset = 0, limit = Infinity } = wanted as { offset?: number; limit?: number };
    this.slots = ids ? slotsOf(search, ids).filter(isIn) : view.slots(offset, limit);
  }

  get count(): number {
    return this.slots.length;
  }

  /** UTF-16 units of the longest cell among the rows, of each column asked for. Where none of a segment is over `enough`, its rows are not looked at. */
  *longestSteps(enough: number): Generator<void, number[]> {
    const longest = this.columns.map(() => 0);
    const over = this.segments.map(({ columns }) =>
      this.columns.flatMap((column, i) => {
        const most = columns[column].longest;
        if (most > enough) return [i];
        longest[i] = Math.max(longest[i], most);
        return [];
      }),
    );
    if (over.every((columns) => columns.length === 0)) return longest;
    for (const [at, slot] of this.slots.entries()) {
      if (at % 1_024 === 1_023) yield;
      const { s, row } = this.placeOf(slot);
      for (const i of over[s])
        longest[i] = Math.max(longest[i], this.segments[s].columns[this.columns[i]].rawText(row).length);
    }
    return longest;
  }

  private placeOf(slot: number): { readonly s: number; readonly row: number } {
    const s = firstAtLeast(this.starts, slot + 1) - 1;
    return { s, row: slot - this.starts[s] };
  }

  /** Rows from place `from` on, one by one; nothing where it only rests between two cells whose marks may take long. */
  *rowSteps(from: number, withMarks: boolean): Generator<SnapshotRow | undefined, void> {
    const { leaves } = this;
    const isAsked = (column: number): boolean => this.numbers.has(column);
    const marksOf: (SegmentMarks | undefined)[] = [];
    for (let at = from; at < this.slots.length; at++) {
      const { s, row } = this.placeOf(this.slots[at]);
      const segment = this.segments[s];
      const match = hasBit(this.matches[s], row);
      let marks: readonly Mark[] = [];
      if (withMarks && match && leaves.length > 0) {
        const steps = (marksOf[s] ??= new SegmentMarks({ leaves }, segment, isAsked)).steps(row);
        let step = steps.next();
        for (; !step.done; step = steps.next()) yield undefined;
        marks = step.value.map((mark) => ({ ...mark, column: this.numbers.get(mark.column)! }));
      }
      const cells = this.columns.map((column) => segment.columns[column].rawText(row));
      yield { id: segment.ids[row], match, cells, marks };
    }
  }
}
