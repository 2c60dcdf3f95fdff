/**
 * A column of a segment. Cells are kept as distinct values and a code a row. The index is built once over the cells
 * as they were; a row whose cell has changed since is *stale*: the index is not asked about it, and its cell is looked at
 * by itself. So a change costs nothing but its own row, and a segment with many is rebuilt.
 */
import { clearBit, dropBits, emptyBits, fullBits, hasBit, setBit, type Bits } from './bits.js';
import { wholeBytes, type WholeBytes } from './bytes.js';
import { Cell, FACE_BREAK, foldedFaces } from './cell.js';
import { Chunks } from './chunks.js';
import { SharedChunks } from './shared-chunks.js';
import { Judging } from './judging.js';
import { shownText, valuesOf, type ColumnSpec } from './kinds.js';
import type { PackReader, PackWriter } from './pack.js';
import { finished, StepMeter, type Steps } from '../steps.js';
import { TextMap } from '../text/index.js';
import { TextPool } from './text-pool.js';
import { RowsByValue } from './rows-by-value.js';
import { sizeOf, type RowSet } from './row-set.js';
import { byKey } from './values-by-key.js';
import { markValues, rowsAmong } from './value-rows.js';
import { Vocabulary } from './vocabulary.js';

/** Letters that are taken in one step; a cell is as much work as so many besides. */
const A_STEP = 1 << 18;
const A_CELL = 32;

/** The most distinct values of which the shown texts are kept. */
const REMEMBERED_TEXTS = 4_096;

export class ColumnSegment {
  /** The text that each value shows, as far as it was asked for. */
  private readonly shownTexts: (string | undefined)[] = [];
  private builtVocabulary: Vocabulary | undefined;
  private builtValues: Float64Array | undefined;
  private builtChunks: Chunks | undefined;
  private builtRowsBeyondAscii: Bits | undefined;
  private builtBlankRows: Bits | undefined;
  /** All there is to build has been. */
  isBuilt = false;
  private builtByKey: TextMap<number[]> | undefined;
  private readonly changed = new Map<number, string>();
  private staleRows: Bits | undefined;

  private constructor(
    readonly spec: ColumnSpec,
    /** The place of each row's text, as the rows were at the time of building. */
    readonly codes: Uint16Array,
    /** Distinct raw texts. */
    readonly raw: TextPool,
    /** The chunks that the column's segments share. */
    private readonly sharedChunks: SharedChunks,
    private readonly byValue = new RowsByValue(codes, raw.size),
  ) {}

  static of(spec: ColumnSpec, cells: readonly string[], sharedChunks = new SharedChunks()): ColumnSegment {
    return finished(ColumnSegment.steps(spec, cells.length, (row) => cells[row], sharedChunks));
  }

  /** Does what `of` does, a little at a time. @param cellAt the cell of a row */
  static *steps(
    spec: ColumnSpec,
    rowCount: number,
    cellAt: (row: number) => string,
    sharedChunks: SharedChunks,
  ): Steps<ColumnSegment> {
    const codes = new Uint16Array(rowCount);
    const numbers = new TextMap<number>();
    const meter = new StepMeter(A_STEP);
    for (let row = 0; row < rowCount; row++) {
      const cell = cellAt(row);
      if (meter.fills(cell.length + A_CELL)) yield;
      let code = numbers.get(cell);
      if (code === undefined) {
        code = numbers.size;
        numbers.set(cell, code);
      }
      codes[row] = code;
    }
    yield;
    return new ColumnSegment(spec, codes, TextPool.of([...numbers.keys()]), sharedChunks);
  }

  /** Makes a copy of the column, whose cells change by themselves. */
  copy(): ColumnSegment {
    const copy = new ColumnSegment(this.spec, this.codes, this.raw, this.sharedChunks, this.byValue);
    copy.builtVocabulary = this.builtVocabulary;
    copy.builtValues = this.builtValues;
    copy.builtChunks = this.builtChunks;
    copy.builtRowsBeyondAscii = this.builtRowsBeyondAscii;
    copy.builtBlankRows = this.builtBlankRows;
    copy.builtByKey = this.builtByKey;
    copy.isBuilt = this.isBuilt;
    for (const [row, text] of this.changed) copy.changed.set(row, text);
    copy.staleRows = this.staleRows?.slice();
    return copy;
  }

  /** Packs the column with its index, which is built if it is not yet. */
  pack(to: PackWriter): void {
    this.build();
    to.numbers(this.codes);
    this.raw.pack(to);
    this.byValue.pack(to);
    this.chunks.pack(to);
    this.vocabulary.pack(to);
    to.numbers(this.values);
    to.numbers(this.rowsBeyondAscii);
    to.numbers(this.blankRows);
    to.numbers(Uint32Array.from(this.changed.keys()));
    TextPool.of([...this.changed.values()]).pack(to);
  }

  /** Packs the cells as they are now, without an index: who unpacks them builds their own. Of a column that has not changed since it was built. */
  packCells(to: PackWriter): void {
    if (this.changed.size > 0) throw new Error('cells have changed since the column was built');
    to.numbers(this.codes);
    this.raw.pack(to);
  }

  static ofCells(from: PackReader, spec: ColumnSpec, sharedChunks: SharedChunks): ColumnSegment {
    return new ColumnSegment(spec, from.u16(), TextPool.unpacked(from), sharedChunks);
  }

  static unpacked(from: PackReader, spec: ColumnSpec, sharedChunks: SharedChunks): ColumnSegment {
    const [codes, raw] = [from.u16(), TextPool.unpacked(from)];
    const byValue = RowsByValue.unpacked(from, codes, raw.size);
    const column = new ColumnSegment(spec, codes, raw, sharedChunks, byValue);
    column.builtChunks = Chunks.unpacked(from, sharedChunks);
    column.builtVocabulary = Vocabulary.unpacked(from);
    column.builtValues = from.f64();
    column.builtRowsBeyondAscii = from.u32();
    column.builtBlankRows = from.u32();
    column.isBuilt = true;
    const rows = from.u32();
    const texts = TextPool.unpacked(from);
    rows.forEach((row, i) => column.change(row, texts.at(i)));
    return column;
  }

  /** Makes a column of the same cells, read, shown and indexed in another way. */
  respecified(spec: ColumnSpec, sharedChunks: SharedChunks): ColumnSegment {
    return new ColumnSegment(spec, this.codes, this.raw, sharedChunks, this.byValue);
  }

  /** True if no cell was changed since it was built. */
  get isUnchanged(): boolean {
    return this.changed.size === 0;
  }

  /** Rows at the time of building. Those that were added since are stale. */
  get rowCount(): number {
    return this.codes.length;
  }

  /** Distinct values at the time of building. */
  get valueCount(): number {
    return this.raw.size;
  }

  /** Whether all values are sooner judged than some of them told apart. */
  get hasFewValues(): boolean {
    return this.byValue.few;
  }

  get vocabulary(): Vocabulary {
    return (this.builtVocabulary ??= Vocabulary.of(this.chunks, this.codes, this.rowCount));
  }

  /** The distinct values, chunk by chunk. */
  get chunks(): Chunks {
    return (this.builtChunks ??= Chunks.of(this.eachFaces(), this.sharedChunks));
  }

  private *eachFaces(): Generator<readonly string[]> {
    for (let value = 0; value < this.valueCount; value++) yield this.valueCell(value).faces;
  }

  /** Rows with a letter or sign that is not ASCII, in either face. */
  get rowsBeyondAscii(): Bits {
    return (this.builtRowsBeyondAscii ??= this.rowsWhose((value) => !this.chunks.isAscii(value)));
  }

  /** Rows with a blank cell. */
  get blankRows(): Bits {
    return (this.builtBlankRows ??= this.rowsWhose((value) => this.chunks.isBlank(value)));
  }

  /** Rows with a cell that is not blank; the caller's own. */
  get filledRows(): Bits {
    const rows = fullBits(this.rowCount);
    dropBits(rows, this.blankRows);
    return rows;
  }

  private rowsWhose(test: (value: number) => boolean): Bits {
    const passed = wholeBytes(this.valueCount);
    for (let value = 0; value < passed.length; value++) passed[value] = test(value) ? 1 : 0;
    return this.byValue.of(passed) ?? emptyBits(this.rowCount);
  }

  /** Numbers, or days since 1970-01-01, of the distinct values; NaN where there is none. */
  get values(): Float64Array {
    return (this.builtValues ??= valuesOf(this.raw, this.spec));
  }

  /** Builds all there is to build, so that the first search does not have to. */
  build(): void {
    finished(this.buildSteps());
  }

  /** Does what `build` does, a little at a time. */
  *buildSteps(): Steps<void> {
    // A search between two steps may have built either by itself: what it goes on with stays.
    if (!this.builtChunks) {
      const chunks = yield* Chunks.steps(this.eachFaces(), this.sharedChunks);
      this.builtChunks ??= chunks;
    }
    yield;
    if (!this.builtVocabulary) {
      const vocabulary = yield* Vocabulary.steps(this.chunks, this.codes, this.rowCount);
      this.builtVocabulary ??= vocabulary;
    }
    yield;
    void this.vocabulary.words;
    yield;
    void this.vocabulary.signed;
    yield;
    if (this.chunks.repeating && !this.hasFewValues) yield* this.chunks.holdersSteps();
    yield;
    void this.values;
    yield;
    this.byValue.build();
    yield;
    void this.rowsBeyondAscii;
    yield;
    void this.blankRows;
    this.isBuilt = true;
  }

  /** 1 for each distinct value that says one of the keys. */
  valuesOfKeys(keys: ReadonlySet<string>): Uint8Array {
    this.builtByKey ??= byKey(this.raw);
    const marked = new Uint8Array(this.valueCount);
    for (const key of keys) for (const value of this.builtByKey.get(key) ?? []) marked[value] = 1;
    return marked;
  }

  /** UTF-16 units of the longest text that a cell has now, or had when the segment was built. */
  get longest(): number {
    let longest = this.raw.longest;
    for (const text of this.changed.values()) longest = Math.max(longest, text.length);
    return longest;
  }

  rawText(row: number): string {
    const changed = this.changed.size === 0 ? undefined : this.changed.get(row);
    return changed ?? this.raw.at(this.codes[row]);
  }

  /** True if a cell may show another text than it has. */
  get isShownOtherwise(): boolean {
    return this.spec.shown !== undefined;
  }

  /** The text that a row's cell shows. Of few values it is worked out once for each. */
  shownText(row: number): string {
    const { changed, spec } = this;
    const text = changed.size === 0 ? undefined : changed.get(row);
    if (text !== undefined) return shownText(text, spec);
    const code = this.codes[row];
    if (spec.shown === undefined || this.valueCount > REMEMBERED_TEXTS) return shownText(this.raw.at(code), spec);
    return (this.shownTexts[code] ??= shownText(this.raw.at(code), spec));
  }

  cell(row: number): Cell {
    const changed = this.changed.get(row);
    return changed === undefined ? this.valueCell(this.codes[row]) : new Cell(changed, this.spec);
  }

  valueCell(code: number): Cell {
    return new Cell(this.raw.at(code), this.spec);
  }

  /** Raw texts that the cells have now or had when the segment was built. */
  *currentTexts(): Generator<string> {
    for (let code = 0; code < this.valueCount; code++) yield this.raw.at(code);
    yield* this.changed.values();
  }

  /** Visits the rows whose cell changed since the segment was built, with their raw text. */
  eachChanged(visit: (row: number, raw: string) => void): void {
    for (const [row, raw] of this.changed) visit(row, raw);
  }

  /** The folded faces of the cells that changed since the segment was built. */
  *changedFaces(): Generator<string> {
    for (const raw of this.changed.values()) yield* foldedFaces(raw, this.spec).split(FACE_BREAK);
  }

  /** Rows whose cell changed since the segment was built. */
  get staleCount(): number {
    return this.changed.size;
  }

  isStale(row: number): boolean {
    return this.staleRows !== undefined && hasBit(this.staleRows, row);
  }

  change(row: number, raw: string): void {
    this.staleRows ??= emptyBits(this.rowCount);
    if (row < this.rowCount && this.raw.at(this.codes[row]) === raw) {
      this.changed.delete(row);
      clearBit(this.staleRows, row);
    } else {
      this.changed.set(row, raw);
      setBit(this.staleRows, row);
    }
  }

  /**
   * Makes an answer of the index true of the cells as they are now.
   * @param indexed rows by the index; written to
   * @param test what a stale row and its cell are asked @throws what it throws
   */
  corrected(indexed: Bits | undefined, test: (row: number, cell: Cell) => boolean): Bits | undefined {
    if (!this.staleRows || this.changed.size === 0) return indexed;
    const rows = indexed ?? emptyBits(this.rowCount);
    dropBits(rows, this.staleRows);
    for (const [row, raw] of this.changed) if (test(row, new Cell(raw, this.spec))) setBit(rows, row);
    return rows;
  }

  /**
   * Rows of the distinct values that pass, out of `candidates` or, without them, of all rows.
   * @param judge is given 1 for each value that is asked, and makes 0 of it for those that do not pass
   * @param judging one that was stopped and goes on, if so
   */
  rowsWhere(judge: (asked: WholeBytes) => void, candidates?: RowSet, judging = new Judging()): RowSet | undefined {
    const many = candidates ? sizeOf(candidates) : this.rowCount;
    const asked = judging.judge(this.valueCount, (none) => this.markAsked(many, none, candidates), judge);
    return !candidates || many > this.rowCount >>> 4
      ? this.byValue.of(asked)
      : rowsAmong(this.codes, candidates, asked);
  }

  /** Marks the values that are asked, at least those of the candidates, which are so many rows. */
  private markAsked(many: number, asked: WholeBytes, candidates?: RowSet): void {
    // Few values, or nearly all, or short ones, are asked sooner than told apart; so are many that share chunks, which are asked
    // first and for all of them.
    const { sequence, single, own, repeating } = this.chunks;
    const quick =
      this.valueCount <= many >>> 5 ||
      many >= this.rowCount * (repeating ? 0.3 : 0.75) ||
      (repeating && many >= own.size && 4 * many >= sequence.length);
    if (candidates && !quick && (single || 2 * many < sequence.length)) markValues(this.codes, candidates, asked);
    else asked.fill(1);
  }

  /** Bytes held, the index included if it is built. */
  get bytes(): number {
    const { builtRowsBeyondAscii: beyond, builtBlankRows: blank } = this;
    const sets = (beyond?.byteLength ?? 0) + (blank?.byteLength ?? 0) + this.byValue.bytes;
    const index = (this.builtChunks?.bytes ?? 0) + (this.builtVocabulary?.bytes ?? 0);
    return this.codes.byteLength + this.raw.bytes + sets + index;
  }
}
