/**
 * A table as the engine holds it: sealed segments, and rows added lately in a last, short one. The caller's database is
 * the truth; this can always be built again from it.
 */
import { hasBit, pickBits } from './bits.js';
import type { Borrowing } from './borrowing.js';
import { Borrowings } from './borrowings.js';
import { sameCells, type ColumnSpec } from './kinds.js';
import { NotAPack, type PackReader, PackWriter } from './pack.js';
import { cellsChangedBeside, changedBeside } from './beside.js';
import { Sealing } from './sealing.js';
import { Segment, type Row } from './segment.js';
import { SharedChunks } from './shared-chunks.js';
import { SlotEdits } from './slot-edits.js';
import { finished, type Steps } from '../steps.js';

/** Rows among which an example of a column's cells is looked for. */
const EXAMPLE_ROWS = 1_000;
/** Rows of a change that is made at once. */
const FEW_EDITS = 256;
/** The most rows added at once that are told of one by one. */
const FEW = 2_000;

/** A row of a change of the log: its cells from then on; null for a row that is removed. */
export interface RowEdit {
  readonly id: number;
  readonly after: readonly string[] | null;
}

/** @throws RangeError where an edit names a row that another one names */
function refuseTwice(edits: readonly RowEdit[]): void {
  if (new Set(edits.map(({ id }) => id)).size < edits.length) throw new RangeError('a change names a row twice');
}

export class Table {
  readonly segments: Segment[] = [];
  private specs: readonly ColumnSpec[];
  /** Rows that are still to come, while it is unpacked; removed ones are among them, since they keep their slots. */
  private rowsToUnpack = 0;
  /** How often large changes were taken over. */
  private takeovers = 0;
  private readonly sharedChunks: SharedChunks[];
  private readonly borrowings = new Borrowings();
  private readonly edits = new SlotEdits();
  private readonly sealing = new Sealing(this.segments, (rows) => Segment.steps(this.specs, rows, this.sharedChunks));

  constructor(columns: readonly ColumnSpec[], rows: Iterable<Row> = []) {
    this.specs = columns;
    this.sharedChunks = columns.map(() => new SharedChunks());
    this.append(rows);
  }

  /**
   * The table as bytes, part by part: each segment, and last what is shared among them. Rows may change meanwhile: what is packed
   * of a cell is what it held at some moment since the beginning, so the changes since then are to be applied to what is unpacked.
   * If the arrangement is another one at the end, the parts do not fit together. The last part says how many rows there are in them.
   */
  *packSteps(): Generator<PackWriter | undefined, void> {
    let rows = 0;
    for (let at = 0; at < this.segments.length; at++) {
      const part = new PackWriter();
      const segment = this.segments[at];
      // Rows that are added to the last segment while it is packed are not in its part; the log has them.
      rows += segment.rowCount;
      const steps = segment.packSteps(part);
      while (!steps.next().done) yield undefined;
      yield part;
    }
    const shared = new PackWriter();
    shared.count(rows);
    for (const chunks of this.sharedChunks) chunks.pack(shared);
    yield shared;
  }

  /** The cells as bytes, segment by segment, without an index; of a table of which nothing has changed since it was filled. */
  *packedCells(): Generator<PackWriter, void> {
    for (const segment of this.segments) {
      const part = new PackWriter();
      segment.packCells(part);
      yield part;
    }
  }

  /** A table of cells as `packedCells` gave them. Its index is built when it is first needed. @throws NotAPack */
  static ofCells(columns: readonly ColumnSpec[], parts: Iterable<PackReader>): Table {
    const table = new Table(columns);
    for (const part of parts) {
      table.segments.push(Segment.ofCells(part, columns, table.sharedChunks));
      if (!part.atEnd) throw new NotAPack('there is more than that');
    }
    table.edits.rearranged();
    return table;
  }

  /** A table without rows yet, to `unpack` segments into. @param shared the last part @throws NotAPack */
  static ofPack(columns: readonly ColumnSpec[], shared: PackReader): Table {
    const table = new Table(columns);
    table.rowsToUnpack = shared.count();
    columns.forEach((_, i) => (table.sharedChunks[i] = SharedChunks.unpacked(shared)));
    if (!shared.atEnd) throw new NotAPack('there is more than that');
    return table;
  }

  /** The next segment. @throws NotAPack */
  unpack(part: PackReader): void {
    this.segments.push(Segment.unpacked(part, this.specs, this.sharedChunks));
    if (!part.atEnd) throw new NotAPack('there is more than that');
    this.rowsToUnpack -= this.segments[this.segments.length - 1].rowCount;
    this.edits.rearranged();
  }

  /** Ends the unpacking. @throws NotAPack where there are more or fewer rows than were packed */
  unpacked(): void {
    if (this.rowsToUnpack !== 0) throw new NotAPack(`${Math.abs(this.rowsToUnpack)} rows too few or too many`);
  }

  /** Changes when segments are put together, or anything else lets what was packed of them not fit together. */
  get arrangement(): string {
    return `${this.edits.structure} ${this.sealing.joins} ${this.takeovers}`;
  }

  get columns(): readonly ColumnSpec[] {
    return this.specs;
  }

  get rowCount(): number {
    return this.segments.reduce((sum, segment) => sum + segment.liveCount, 0);
  }

  /**
   * Adds rows at the end. Their ids must rise, and be above all before.
   * @param more true if more are to come at once: what does not fill a segment then waits for them
   * @throws RangeError if they do not
   */
  append(rows: Iterable<Row>, more = false): void {
    finished(this.appendSteps(rows, more));
  }

  /** Does what `append` does, a little at a time. Nothing else may be done to the table, nor asked of it, before its end. */
  *appendSteps(rows: Iterable<Row>, more = false): Steps<void> {
    const waited = this.sealing.waits;
    const known = this.segments.reduce((sum, segment) => sum + segment.rowCount, 0);
    yield* this.sealing.append(rows, (row) => this.borrowings.filledRow(row), more);
    const added = this.segments.reduce((sum, segment) => sum + segment.rowCount, -known);
    if (more || waited || known === 0 || added > FEW) this.edits.rearranged();
    else this.addedAtEnd(added);
  }

  /** Some rows more at the end: to whoever follows by slot they are slots that changed. */
  private addedAtEnd(count: number): void {
    const starts = this.slotStarts;
    for (let s = this.segments.length - 1, left = count; left > 0; s--) {
      const { rowCount } = this.segments[s];
      const some = Math.min(left, rowCount);
      for (let row = rowCount - some; row < rowCount; row++) this.edits.edited(starts[s] + row);
      left -= some;
    }
  }

  /**
   * Where the slots of each segment begin, and where the last one's end. A row's slot is its segment's beginning and its
   * place there; each segment begins at a word of bits, so that sets of rows can be put side by side.
   */
  get slotStarts(): number[] {
    const starts = [0];
    for (const { rowCount } of this.segments) starts.push(starts[starts.length - 1] + ((rowCount + 31) & ~31));
    return starts;
  }

  /** Rises with every change to rows or columns. */
  get version(): number {
    return this.edits.version;
  }

  /** Rises when rows change their slots, or columns what they hold. */
  get structure(): number {
    return this.edits.structure;
  }

  /** Slots changed or removed after a version; undefined if rows were rearranged since, or too many were changed. */
  editedSince(version: number, structure: number): number[] | undefined {
    return this.edits.since(version, structure);
  }

  private edited(segment: Segment, row: number): void {
    this.edits.edited(this.slotStarts[this.segments.indexOf(segment)] + row);
  }

  private place(id: number): { segment: Segment; row: number } | undefined {
    for (const segment of this.segments) {
      if (segment.rowCount === 0 || id > segment.ids[segment.rowCount - 1]) continue;
      const row = segment.find(id);
      return row < 0 ? undefined : { segment, row };
    }
    return undefined;
  }

  /** Slot of a row; undefined if there is none of that id. */
  slotOf(id: number): number | undefined {
    const place = this.place(id);
    return place && this.slotStarts[this.segments.indexOf(place.segment)] + place.row;
  }

  /** @returns the row, or undefined if there is none of that id */
  row(id: number): Row | undefined {
    const place = this.place(id);
    return place?.segment.rowAt(place.row);
  }

  /** Raw text of one cell; undefined if there is no row of that id. */
  cellText(id: number, column: number): string | undefined {
    const place = this.place(id);
    return place?.segment.columns[column].rawText(place.row);
  }

  /** The raw cells of a column, row by row, without removed rows. */
  *cellsOf(column: number): Generator<{ readonly id: number; readonly cell: string }> {
    for (const { rowCount, live, ids, columns } of this.segments)
      for (let row = 0; row < rowCount; row++)
        if (hasBit(live, row)) yield { id: ids[row], cell: columns[column].rawText(row) };
  }

  /** A cell of a column as it is shown, of those that can be read by the column's kind; undefined if the first rows have none. */
  exampleOf(column: number): string | undefined {
    const first = this.segments.at(0);
    for (let row = 0; row < Math.min(first?.rowCount ?? 0, EXAMPLE_ROWS); row++) {
      const cell = hasBit(first!.live, row) ? first!.columns[column].cell(row) : undefined;
      if (cell?.value !== undefined) return cell.shown;
    }
    return undefined;
  }

  /** Cells as they came, with those of borrowed columns looked up. */
  filledCells(cells: readonly string[]): readonly string[] {
    return this.borrowings.filledCells(cells);
  }

  /** Has a column's cells looked up from now on, those that are there, too; each value of the key once a segment. */
  borrow(column: number, borrowing: Borrowing): void {
    this.borrowings.put(column, borrowing);
    for (const segment of this.segments) segment.borrow(column, borrowing);
    this.edits.rearranged();
  }

  /** Does what `borrow` does, a little at a time: the column is made beside the one that there is, and taken over at the end. */
  *borrowSteps(column: number, borrowing: Borrowing): Steps<void> {
    const isTaken = yield* this.remadeSteps(function* (copy) {
      yield* copy.borrowSteps(column, borrowing);
      yield* copy.columns[column].buildSteps();
    });
    if (isTaken) this.borrowings.put(column, borrowing);
    else this.borrow(column, borrowing);
  }

  /**
   * Has all segments made anew beside those that there are, and takes them over at once.
   * @param make changes the copy of a segment
   * @returns false if the table has changed meanwhile, and nothing was taken over
   */
  private *remadeSteps(make: (copy: Segment) => Steps<void>): Steps<boolean> {
    const { version } = this.edits;
    const made: Segment[] = [];
    for (const segment of [...this.segments]) {
      const copy = segment.copy();
      yield* make(copy);
      made.push(copy);
    }
    if (version !== this.edits.version || this.sealing.waits) return false;
    this.takeOver(made);
    this.edits.rearranged();
    return true;
  }

  /** Puts what was made beside the table in its place. */
  private takeOver(segments: readonly Segment[]): void {
    this.segments.splice(0, this.segments.length, ...segments);
    this.takeovers++;
  }

  /** Does what `lookUp` does, a little at a time: where there are many such cells, they are changed beside the table. */
  *lookUpSteps(column: number, keys: ReadonlySet<string>): Steps<void> {
    const borrowing = this.borrowings.of(column);
    if (!borrowing) return;
    const { version } = this.edits;
    const cells: { readonly segment: number; readonly row: number; readonly text: string }[] = [];
    for (const [at, segment] of [...this.segments].entries()) {
      for (const { row, text } of segment.borrowed(column, borrowing, keys)) {
        cells.push({ segment: at, row, text });
        if (cells.length % FEW_EDITS === 0) yield;
      }
      yield;
    }
    const isLarge = cells.length > FEW_EDITS;
    const changed = isLarge ? yield* cellsChangedBeside(this.segments, column, cells) : this.segments;
    if (version !== this.edits.version) return this.lookUp(column, keys);
    if (isLarge) this.takeOver(changed);
    else for (const { segment, row, text } of cells) this.segments[segment].changeCell(row, column, text);
    const starts = this.slotStarts;
    for (const { segment, row } of cells) this.edits.edited(starts[segment] + row);
  }

  /** Looks up anew, after the other table has changed. @param keys what was changed there, as `keyOf` has it */
  lookUp(column: number, keys: ReadonlySet<string>): void {
    const borrowing = this.borrowings.of(column);
    if (!borrowing) return;
    for (const segment of this.segments)
      for (const { row, text } of segment.borrowed(column, borrowing, keys)) {
        segment.changeCell(row, column, text);
        this.edited(segment, row);
      }
  }

  /** @returns false if there is no row of that id */
  change(id: number, cells: readonly string[]): boolean {
    const place = this.place(id);
    if (!place) return false;
    place.segment.change(place.row, this.filledCells(cells));
    this.edited(place.segment, place.row);
    return true;
  }

  /** @returns false if there is no row of that id */
  remove(id: number): boolean {
    const place = this.place(id);
    if (!place) return false;
    place.segment.remove(place.row);
    this.edited(place.segment, place.row);
    return true;
  }

  /**
   * Does what a change of the log did. Doing it again changes nothing.
   * @throws RangeError if a row is named twice; then nothing is done
   */
  apply(edits: readonly RowEdit[]): void {
    refuseTwice(edits);
    const added: Row[] = [];
    for (const { id, after } of edits) {
      if (after === null) this.remove(id);
      else if (!this.change(id, after) && !this.restore(id, after)) added.push({ id, cells: after });
    }
    const last = this.segments.at(-1)?.ids.at(-1) ?? -Infinity;
    if (added.some(({ id }) => id <= last)) this.insert(added);
    else if (added.length > 0) this.addToLast(added.sort((a, b) => a.id - b.id));
  }

  /**
   * Does what `apply` does, a little at a time, where it is about many rows or puts some among others: then it is made beside the table, which
   * answers as it was until all is taken over at the end. Nothing else may be done to its rows before that.
   */
  *applySteps(edits: readonly RowEdit[]): Steps<void> {
    if (this.sealing.waits || !this.isLarge(edits)) return this.apply(edits);
    refuseTwice(edits);
    const make = (rows: readonly Row[]): Steps<Segment> => Segment.steps(this.specs, rows, this.sharedChunks);
    const filled = (cells: readonly string[]): readonly string[] => this.filledCells(cells);
    const { version } = this.edits;
    const { segments, rows, added } = yield* changedBeside(this.segments, edits, filled, make);
    // What it borrows may be another meanwhile: then what was made is of cells that are no more.
    if (version !== this.edits.version) return this.apply(edits);
    this.takeOver(segments);
    if (!rows || added > FEW) return this.edits.rearranged();
    const starts = this.slotStarts;
    for (const { segment, row } of rows) this.edits.edited(starts[segment] + row);
    if (added > 0) this.addedAtEnd(added);
  }

  private isLarge(edits: readonly RowEdit[]): boolean {
    if (edits.length > FEW_EDITS) return true;
    const last = this.segments.at(-1)?.ids.at(-1) ?? -Infinity;
    // One that has no slot any more has all that come after it put elsewhere.
    return edits.some(({ id, after }) => after !== null && id <= last && !this.slotPlace(id));
  }

  /** Does what `place` does, of a removed row, too. */
  private slotPlace(id: number): { segment: Segment; row: number } | undefined {
    for (const segment of this.segments) {
      const row = segment.slotOf(id);
      if (row >= 0) return { segment, row };
    }
    return undefined;
  }

  /** Whether there are columns with so many changed cells that they are to be rebuilt. */
  get isUnsettled(): boolean {
    return this.segments.some(({ isUnsettled }) => isUnsettled);
  }

  /** Rebuilds them, a little at a time, beside those that there are. */
  *settleSteps(): Steps<void> {
    for (const segment of [...this.segments]) if (segment.isUnsettled) yield* segment.settleSteps();
  }

  /** A few rows find room in the last segment as it is; it is built anew only where they do not. */
  private addToLast(rows: readonly Row[]): void {
    const last = this.segments.at(-1);
    if (!last || this.sealing.waits || rows.length > last.room) return this.append(rows);
    for (const row of rows) last.add(this.borrowings.filledRow(row));
    this.addedAtEnd(rows.length);
  }

  /** Brings a removed row back to its place. @returns false if its slot is no longer there */
  private restore(id: number, cells: readonly string[]): boolean {
    const place = this.slotPlace(id);
    if (!place) return false;
    const { segment, row } = place;
    segment.restore(row);
    segment.change(row, this.filledCells(cells));
    this.edited(segment, row);
    return true;
  }

  /** Puts rows to their places among the others: segments are made anew, which is rare and takes long. */
  private insert(added: readonly Row[]): void {
    const rows = this.segments.flatMap((segment) =>
      pickBits(segment.live, 0, segment.rowCount).map((row) => segment.rowAt(row)),
    );
    this.segments.length = 0;
    this.append([...rows, ...added].sort((a, b) => a.id - b.id));
  }

  /** Changes kinds, shown forms or orders of columns, or adds columns at the end, blank in the rows that are there. */
  respecify(columns: readonly ColumnSpec[]): void {
    columns.forEach((spec, index) => {
      if (index < this.specs.length && sameCells(spec, this.specs[index])) return;
      this.sharedChunks[index] = new SharedChunks();
      for (const segment of this.segments) segment.respecify(index, spec);
    });
    this.specs = columns;
    for (const segment of this.segments) segment.changes.all();
    this.edits.rearranged();
  }

  /** Does what `respecify` does, a little at a time: columns are made beside those that there are, and taken over at the end. */
  *respecifySteps(columns: readonly ColumnSpec[]): Steps<void> {
    const chunks = new Map<number, SharedChunks>();
    columns.forEach((spec, at) => {
      if (at >= this.specs.length || !sameCells(spec, this.specs[at])) chunks.set(at, new SharedChunks());
    });
    const isTaken = yield* this.remadeSteps(function* (copy) {
      for (const [at, shared] of chunks) yield* copy.respecifySteps(at, columns[at], shared);
    });
    if (!isTaken) return this.respecify(columns);
    for (const [at, shared] of chunks) this.sharedChunks[at] = shared;
    this.specs = columns;
  }

  /** Builds every index that is not built yet, so that the first search does not have to. */
  *buildIndexes(): Generator<void> {
    for (const segment of this.segments) {
      for (const column of segment.columns) {
        if (column.isBuilt) continue;
        yield* column.buildSteps();
      }
    }
  }

  /** Bytes held by columns and indexes. */
  get bytes(): number {
    return this.segments.reduce((sum, segment) => sum + segment.bytes, 0);
  }
}
