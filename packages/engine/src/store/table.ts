/**
 * A table as the engine holds it: sealed segments, and rows added lately in a last, short one. The caller's database is
 * the truth; this can always be built again from it.
 */
import { pickBits } from './bits.js';
import type { ColumnSpec } from './kinds.js';
import { Segment, SEGMENT_ROWS, type Row } from './segment.js';
import { SharedChunks } from './shared-chunks.js';

/** The first segment is short, so that where a search takes long its first rows are there soon. */
const FIRST_ROWS = 16_384;
/** A short last segment is rebuilt with what is added to it; this many rows at a time keep that cheap. */
const TAIL_ROWS = 4_096;

function capacity(segment: number): number {
  return segment === 0 ? FIRST_ROWS : SEGMENT_ROWS;
}

export class Table {
  readonly segments: Segment[] = [];
  /** Rises with every change to rows or columns. */
  version = 0;
  private specs: readonly ColumnSpec[];
  private waiting: Row[] = [];
  private readonly sharedChunks: SharedChunks[];

  constructor(columns: readonly ColumnSpec[], rows: Iterable<Row> = []) {
    this.specs = columns;
    this.sharedChunks = columns.map(() => new SharedChunks());
    this.append(rows);
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
    for (const row of rows) {
      const last = this.waiting.at(-1)?.id ?? this.segments.at(-1)?.ids.at(-1) ?? -Infinity;
      if (row.id <= last) throw new RangeError(`row id ${row.id} does not come after ${last}`);
      this.waiting.push(row);
      if (this.waiting.length === capacity(this.segments.length)) this.seal();
    }
    if (!more) this.seal();
    this.version++;
  }

  private seal(): void {
    let rows = this.waiting;
    if (rows.length === 0) return;
    this.waiting = [];
    const last = this.segments.at(-1);
    const room = capacity(this.segments.length - 1);
    if (last && last.rowCount < room && last.rowCount + rows.length <= Math.max(TAIL_ROWS, rows.length * 2)) {
      this.segments.pop();
      const kept = pickBits(last.live, 0, last.rowCount).map((row) => last.rowAt(row));
      rows = kept.concat(rows);
    }
    while (rows.length > 0) {
      const size = capacity(this.segments.length);
      this.segments.push(new Segment(this.specs, rows.slice(0, size), this.sharedChunks));
      rows = rows.slice(size);
    }
  }

  private place(id: number): { segment: Segment; row: number } | undefined {
    for (const segment of this.segments) {
      if (segment.rowCount === 0 || id > segment.ids[segment.rowCount - 1]) continue;
      const row = segment.find(id);
      return row < 0 ? undefined : { segment, row };
    }
    return undefined;
  }

  /** @returns the row, or undefined if there is none of that id */
  row(id: number): Row | undefined {
    const place = this.place(id);
    return place?.segment.rowAt(place.row);
  }

  /** @returns false if there is no row of that id */
  change(id: number, cells: readonly string[]): boolean {
    const place = this.place(id);
    place?.segment.change(place.row, cells);
    if (place) this.version++;
    return place !== undefined;
  }

  /** @returns false if there is no row of that id */
  remove(id: number): boolean {
    const place = this.place(id);
    place?.segment.remove(place.row);
    if (place) this.version++;
    return place !== undefined;
  }

  /** Changes kinds, shown forms or orders of columns; the cells stay. */
  respecify(columns: readonly ColumnSpec[]): void {
    columns.forEach((spec, index) => {
      if (JSON.stringify(spec) === JSON.stringify(this.specs[index])) return;
      this.sharedChunks[index] = new SharedChunks();
      for (const segment of this.segments) segment.respecify(index, spec);
    });
    this.specs = columns;
    this.version++;
  }

  /** Builds every index now, so that the first search does not have to. One step a segment and column. */
  *buildIndexes(): Generator<void> {
    for (const segment of this.segments) {
      for (const column of segment.columns) {
        column.build();
        yield;
      }
    }
  }

  /** Bytes held by columns and indexes. */
  get bytes(): number {
    return this.segments.reduce((sum, segment) => sum + segment.bytes, 0);
  }
}
