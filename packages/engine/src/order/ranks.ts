/**
 * Ranks: for every row of a column, the place of its value among the column's distinct values. Blanks rank last of all. When
 * cells change, the ranks are mended: a value that was not there before is put between its neighbours, and nothing is sorted
 * anew.
 */
import { isBlank, TextMap } from '../text/index.js';
import type { Table } from '../store/index.js';
import { compareTexts } from './collation.js';
import { sortKey } from './sort-keys.js';

/** Rank of a blank cell, or of one whose kind cannot read it. */
export const LAST = 0xffffffff;
/** More values that were not there before than this are sorted anew. */
const MENDED = 2_000;

/** Rows that there is room for besides those there are, so that one more does not copy all. */
export const SPARE = 4_096;

export interface Ranks {
  /** Rank of each slot (see `Table.slotStarts`), removed rows' too. */
  readonly ranks: Uint32Array;
  /** How many distinct ranks there are, apart from LAST. */
  readonly count: number;
}

interface Ranked {
  readonly text: string;
  readonly key: string | undefined;
}

function compareRanked(a: Ranked, b: Ranked): number {
  if (a.key !== undefined && b.key !== undefined && a.key !== b.key) return a.key < b.key ? -1 : 1;
  return compareTexts(a.text, b.text);
}

/** Finds where `value` is in a rising list, or would come. */
export function placeOf<T>(list: ArrayLike<T>, value: T, compare: (a: T, b: T) => number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (compare(list[middle], value) < 0) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Makes room for a rank. */
function shift(ranks: Uint32Array, from: number): void {
  for (let i = 0; i < ranks.length; i++) if (ranks[i] >= from && ranks[i] !== LAST) ranks[i]++;
}

/** The distinct values of a column in order, one of those that the order does not tell apart; and the rank of each row. */
abstract class RankedColumn<T> implements Ranks {
  ranks: Uint32Array<ArrayBuffer> = new Uint32Array(0);
  protected values: T[] = [];
  version = 0;
  structure = -1;

  constructor(
    protected readonly table: Table,
    protected readonly column: number,
  ) {}

  get count(): number {
    return this.values.length;
  }

  protected abstract compare(a: T, b: T): number;
  protected abstract valueAt(segment: number, row: number): T | undefined;
  protected abstract make(): void;

  /** Ranks of the table as it is now. */
  current(): this {
    const { table } = this;
    if (this.version === table.version && this.structure === table.structure) return this;
    const edited = table.editedSince(this.version, this.structure);
    if (!edited || edited.length > MENDED) this.make();
    else this.mend(edited);
    this.version = table.version;
    this.structure = table.structure;
    return this;
  }

  private mend(slots: readonly number[]): void {
    const starts = this.table.slotStarts;
    this.grow(starts[starts.length - 1]);
    const compare = (a: T, b: T): number => this.compare(a, b);
    for (const slot of slots) {
      const segment = placeOf(starts, slot + 1, (a, b) => a - b) - 1;
      const value = this.valueAt(segment, slot - starts[segment]);
      if (value === undefined) {
        this.ranks[slot] = LAST;
        continue;
      }
      const rank = placeOf(this.values, value, compare);
      if (rank === this.values.length || this.compare(this.values[rank], value) !== 0) {
        this.values.splice(rank, 0, value);
        shift(this.ranks, rank);
      }
      this.ranks[slot] = rank;
    }
  }

  /** Rows were added: there is room for them, and for some more. */
  private grow(end: number): void {
    if (this.ranks.length >= end) return;
    const ranks = new Uint32Array(end + SPARE).fill(LAST);
    ranks.set(this.ranks);
    this.ranks = ranks;
  }

  protected emptyRanks(): Uint32Array<ArrayBuffer> {
    return new Uint32Array(this.table.slotStarts.at(-1)!).fill(LAST);
  }
}

class RankedTexts extends RankedColumn<Ranked> {
  private ranked(text: string): Ranked {
    return { text, key: this.order ? undefined : sortKey(text.trim()) };
  }

  private get order(): readonly string[] | undefined {
    const { order } = this.table.columns[this.column];
    return order && order.length > 0 ? order : undefined;
  }

  protected compare(a: Ranked, b: Ranked): number {
    return this.order ? compareTexts(a.text, b.text, this.order) : compareRanked(a, b);
  }

  protected valueAt(segment: number, row: number): Ranked | undefined {
    const text = this.table.segments[segment].columns[this.column].rawText(row);
    return isBlank(text) ? undefined : this.ranked(text);
  }

  protected make(): void {
    const { table, column } = this;
    const distinct = new TextMap<true>();
    for (const { columns } of table.segments)
      for (const text of columns[column].currentTexts()) distinct.set(text, true);
    const entries = Array.from(distinct.keys(), (text) => this.ranked(text)).filter(({ text }) => !isBlank(text));
    const { order } = this;
    entries.sort(order ? (a, b) => compareTexts(a.text, b.text, order) : compareRanked);
    const rankOf = new TextMap<number>();
    this.values = [];
    entries.forEach((entry, i) => {
      if (i === 0 || this.compare(entries[i - 1], entry) !== 0) this.values.push(entry);
      rankOf.set(entry.text, this.values.length - 1);
    });
    const ranks = this.emptyRanks();
    const starts = table.slotStarts;
    table.segments.forEach(({ columns, rowCount }, s) => {
      const part = columns[column];
      const byCode = Uint32Array.from({ length: part.valueCount }, (_, code) => rankOf.get(part.raw.at(code)) ?? LAST);
      for (let row = 0; row < rowCount; row++) ranks[starts[s] + row] = byCode[part.codes[row]];
      part.eachChanged((row, text) => (ranks[starts[s] + row] = rankOf.get(text) ?? LAST));
    });
    this.ranks = ranks;
  }
}

class RankedValues extends RankedColumn<number> {
  protected compare(a: number, b: number): number {
    return a - b;
  }

  protected valueAt(segment: number, row: number): number | undefined {
    return this.table.segments[segment].columns[this.column].cell(row).value;
  }

  protected make(): void {
    const { table, column } = this;
    const values = new Float64Array(table.slotStarts.at(-1)!).fill(NaN);
    const starts = table.slotStarts;
    table.segments.forEach(({ columns, rowCount }, s) => {
      const part = columns[column];
      for (let row = 0; row < rowCount; row++) values[starts[s] + row] = part.values[part.codes[row]];
      part.eachChanged((row) => (values[starts[s] + row] = part.cell(row).value ?? NaN));
    });
    const distinct = Float64Array.from(new Set(values.filter((value) => !Number.isNaN(value)))).sort();
    const rankOf = new Map<number, number>();
    distinct.forEach((value, rank) => rankOf.set(value, rank));
    this.values = Array.from(distinct);
    this.ranks = Uint32Array.from(values, (value) => rankOf.get(value) ?? LAST);
  }
}

const remembered = new WeakMap<Table, Map<number, RankedTexts | RankedValues>>();

/** Ranks of a column, remembered, and mended when cells change. */
export function ranksOf(table: Table, column: number): Ranks {
  let columns = remembered.get(table);
  if (!columns) remembered.set(table, (columns = new Map()));
  const { kind } = table.columns[column];
  const valued = kind === 'number' || kind === 'date';
  let ranked = columns.get(column);
  if (!ranked || ranked instanceof RankedValues !== valued) {
    ranked = valued ? new RankedValues(table, column) : new RankedTexts(table, column);
    columns.set(column, ranked);
  }
  return ranked.current();
}
