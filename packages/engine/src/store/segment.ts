/**
 * A run of at most 65,536 rows of a table, column by column. Searches go segment by segment: each is a step after which
 * a search can be stopped or its first rows shown, and a change touches one segment only.
 */
import { clearBit, countBits, fullBits, hasBit, setBit, type Bits } from './bits.js';
import type { Borrowing } from './borrowing.js';
import { ColumnSegment } from './column-segment.js';
import type { ColumnSpec } from './kinds.js';
import type { PackReader, PackWriter } from './pack.js';
import { RowChanges } from './row-changes.js';
import type { SharedChunks } from './shared-chunks.js';
import { finished, type Steps } from '../steps.js';
import { keyOf } from '../text/index.js';

export const SEGMENT_ROWS = 65_536;
/** Stale rows above which a segment's column is to be rebuilt, and those above which it is not put off any more. */
const STALE_LIMIT = 2_048;
const STALE_MOST = 16_384;
/** Values that are looked up in one step. */
const A_STEP = 1_024;

export interface Row {
  /** Rises from row to row in the table's own order. */
  readonly id: number;
  readonly cells: readonly string[];
}

export class Segment {
  ids: Float64Array;
  readonly live: Bits;
  readonly columns: ColumnSegment[];
  readonly changes = new RowChanges();
  private liveRows: number;

  private constructor(
    ids: Float64Array,
    live: Bits,
    columns: ColumnSegment[],
    private readonly sharedChunks: readonly SharedChunks[],
  ) {
    this.ids = ids;
    this.live = live;
    this.liveRows = countBits(live);
    this.columns = columns;
  }

  /** Column by column. @param sharedChunks of each column, for all segments of a table */
  static *steps(
    specs: readonly ColumnSpec[],
    rows: readonly Row[],
    sharedChunks: readonly SharedChunks[],
  ): Steps<Segment> {
    const columns: ColumnSegment[] = [];
    for (const [column, spec] of specs.entries()) {
      columns.push(
        yield* ColumnSegment.steps(spec, rows.length, (row) => rows[row].cells[column] ?? '', sharedChunks[column]),
      );
      yield;
    }
    const ids = Float64Array.from(rows, (row) => row.id);
    return new Segment(ids, fullBits(rows.length), columns, sharedChunks);
  }

  /** Column by column; between two of them rows may change. */
  *packSteps(to: PackWriter): Steps<void> {
    to.numbers(this.ids);
    to.numbers(this.live, true);
    for (const column of this.columns) {
      yield;
      column.pack(to);
    }
  }

  static unpacked(from: PackReader, specs: readonly ColumnSpec[], sharedChunks: readonly SharedChunks[]): Segment {
    const [ids, live] = [from.f64(), from.u32()];
    const columns = specs.map((spec, i) => ColumnSegment.unpacked(from, spec, sharedChunks[i]));
    return new Segment(ids, live, columns, sharedChunks);
  }

  /** Packs ids and cells, without an index. */
  packCells(to: PackWriter): void {
    to.numbers(this.ids);
    for (const column of this.columns) column.packCells(to);
  }

  static ofCells(from: PackReader, specs: readonly ColumnSpec[], sharedChunks: readonly SharedChunks[]): Segment {
    const ids = from.f64();
    const columns = specs.map((spec, i) => ColumnSegment.ofCells(from, spec, sharedChunks[i]));
    return new Segment(ids, fullBits(ids.length), columns, sharedChunks);
  }

  get rowCount(): number {
    return this.ids.length;
  }

  /** Letters of the distinct values of the column that has most, as they were at the time of building. */
  get letters(): number {
    return this.columns.reduce((most, { raw }) => Math.max(most, raw.joined.length), 0);
  }

  get liveCount(): number {
    return this.liveRows;
  }

  /** Place of a row id, or -1. */
  find(id: number): number {
    const row = this.slotOf(id);
    return row >= 0 && hasBit(this.live, row) ? row : -1;
  }

  /** Does what `find` does, of removed rows, too. */
  slotOf(id: number): number {
    let low = 0;
    let high = this.ids.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.ids[middle] < id) low = middle + 1;
      else high = middle;
    }
    return low < this.ids.length && this.ids[low] === id ? low : -1;
  }

  /** How many rows more it takes as it is: those for which there are bits in the last word of a set. */
  get room(): number {
    return -this.rowCount & 31;
  }

  /** A row more at the end. Its cells are stale, as they would be if it had been blank before. */
  add({ id, cells }: Row): void {
    const row = this.rowCount;
    const ids = new Float64Array(row + 1);
    ids.set(this.ids);
    ids[row] = id;
    this.ids = ids;
    this.columns.forEach((column, i) => column.change(row, cells[i] ?? ''));
    this.restore(row);
  }

  change(row: number, cells: readonly string[]): void {
    for (let i = 0; i < this.columns.length; i++) this.changeCell(row, i, cells[i] ?? '');
  }

  /** Changes one cell. A column of which many have changed is rebuilt; where that may be done later, by `settleSteps`. */
  changeCell(row: number, at: number, text: string): void {
    const column = this.columns[at];
    if (column.rawText(row) === text) return;
    column.change(row, text);
    if (column.staleCount > STALE_MOST) this.columns[at] = this.rebuilt(at);
    this.changes.row(row);
  }

  /** Does what `change` does, of a segment that nobody asks before it has been settled. */
  changeUnsettled(row: number, cells: readonly string[]): void {
    for (let i = 0; i < this.columns.length; i++) this.changeCellUnsettled(row, i, cells[i] ?? '');
    this.changes.row(row);
  }

  /** Does what `changeCell` does, of such a segment. */
  changeCellUnsettled(row: number, at: number, text: string): void {
    if (this.columns[at].rawText(row) === text) return;
    this.columns[at].change(row, text);
    this.changes.row(row);
  }

  /** A segment of the same rows, which changes by itself. What is remembered of one is not of the other. */
  copy(): Segment {
    const columns = this.columns.map((column) => column.copy());
    return new Segment(this.ids, this.live.slice(), columns, this.sharedChunks);
  }

  /** Whether columns have so many changed cells that they are to be rebuilt. */
  get isUnsettled(): boolean {
    return this.columns.some(({ staleCount }) => staleCount > STALE_LIMIT);
  }

  /** Rebuilds columns with many changed cells beside those that there are, a little at a time; cells may change meanwhile. */
  *settleSteps(): Steps<void> {
    for (let at = 0; at < this.columns.length; at++) {
      const before = this.columns[at];
      if (before.staleCount <= STALE_LIMIT) continue;
      const { version } = this.changes;
      const rebuilt = yield* ColumnSegment.steps(
        before.spec,
        this.rowCount,
        (row) => before.rawText(row),
        this.sharedChunks[at],
      );
      yield* rebuilt.buildSteps();
      const since = this.changes.since(version);
      // Too much has happened to it: the next settling does it.
      if (!since || this.columns[at] !== before) continue;
      for (const row of since) rebuilt.change(row, before.rawText(row));
      this.columns[at] = rebuilt;
    }
  }

  /** Fills a column with what the cells of another one find; each distinct one is looked up once. */
  *borrowSteps(at: number, { key, find }: Borrowing): Steps<void> {
    const { codes, valueCount, raw } = this.columns[key];
    const found: string[] = [];
    for (let value = 0; value < valueCount; value++) {
      if (value % A_STEP === A_STEP - 1) yield;
      found.push(find(raw.at(value)));
    }
    const changed = new Map<number, string>();
    this.columns[key].eachChanged((row, text) => changed.set(row, find(text)));
    const cellAt = (row: number): string => changed.get(row) ?? found[codes[row]];
    const { spec } = this.columns[at];
    this.columns[at] = yield* ColumnSegment.steps(spec, this.rowCount, cellAt, this.sharedChunks[at]);
    this.changes.all();
  }

  /** Does what `borrowSteps` does, at once. */
  borrow(at: number, borrowing: Borrowing): void {
    finished(this.borrowSteps(at, borrowing));
  }

  /** Rows whose borrowed cell is another one now. @param keys those that are looked up, as `keyOf` has them */
  *borrowed(
    at: number,
    { key, find }: Borrowing,
    keys: ReadonlySet<string>,
  ): Generator<{ readonly row: number; readonly text: string }> {
    const column = this.columns[key];
    const asked = column.valuesOfKeys(keys);
    for (let row = 0; row < this.rowCount; row++) {
      const stale = column.isStale(row);
      if (!stale && asked[column.codes[row]] === 0) continue;
      const cell = column.rawText(row);
      if (stale && !keys.has(keyOf(cell))) continue;
      const text = find(cell);
      if (this.columns[at].rawText(row) !== text) yield { row, text };
    }
  }

  remove(row: number): void {
    if (hasBit(this.live, row)) this.liveRows--;
    clearBit(this.live, row);
    this.changes.row(row);
  }

  /** Brings a removed row back. */
  restore(row: number): void {
    if (!hasBit(this.live, row)) this.liveRows++;
    setBit(this.live, row);
    this.changes.row(row);
  }

  rowAt(row: number): Row {
    return { id: this.ids[row], cells: this.columns.map((column) => column.rawText(row)) };
  }

  /** Replaces a column's spec: its cells are read, shown and indexed anew. */
  respecify(index: number, spec: ColumnSpec): void {
    const column = this.columns.at(index);
    this.columns[index] = column?.isUnchanged
      ? column.respecified(spec, this.sharedChunks[index])
      : this.rebuilt(index, spec);
    this.changes.all();
  }

  /** Does what `respecify` does, a little at a time, and with all that there is to build; the segment is not to be asked meanwhile. */
  *respecifySteps(index: number, spec: ColumnSpec, sharedChunks: SharedChunks): Steps<void> {
    const before = this.columns.at(index);
    const cellAt = (row: number): string => before?.rawText(row) ?? '';
    const column = before?.isUnchanged
      ? before.respecified(spec, sharedChunks)
      : yield* ColumnSegment.steps(spec, this.rowCount, cellAt, sharedChunks);
    yield* column.buildSteps();
    this.columns[index] = column;
  }

  private rebuilt(index: number, spec = this.columns[index].spec): ColumnSegment {
    const column = this.columns.at(index);
    const cells = Array.from({ length: this.rowCount }, (_, row) => column?.rawText(row) ?? '');
    return ColumnSegment.of(spec, cells, this.sharedChunks[index]);
  }

  get bytes(): number {
    return this.columns.reduce((sum, column) => sum + column.bytes, this.ids.byteLength + this.live.byteLength);
  }
}
