/**
 * Large changes of a table's rows, made beside it: segments that change are copied, and the copies are changed, their columns and
 * indexes built anew where that is due, a little at a time. Meanwhile the table answers as it was; then all of it is taken over at once.
 * So nobody waits for a large change, and nobody sees half of one.
 */
import { hasBit } from './bits.js';
import { Sealing } from './sealing.js';
import type { Row, Segment } from './segment.js';
import type { Steps } from '../steps.js';

/** Rows that are changed in one step. */
const A_STEP = 128;

/** The parts of a table once a change has been made. */
export interface Changed {
  readonly segments: readonly Segment[];
  /** Rows that changed, by segment and place there; undefined where rows have other places now. */
  readonly rows: readonly { readonly segment: number; readonly row: number }[] | undefined;
  /** Rows that were added at the end. */
  readonly added: number;
}

/** Segments of a table, of which those that are to change are copied first. */
class SegmentCopies {
  readonly segments: Segment[];
  private readonly copied = new Set<number>();

  constructor(private readonly before: readonly Segment[]) {
    this.segments = [...before];
  }

  at(segment: number): Segment {
    if (!this.copied.has(segment)) {
      this.copied.add(segment);
      this.segments[segment] = this.before[segment].copy();
    }
    return this.segments[segment];
  }

  /** Finds where the row of an id is, or was before it was removed; undefined if it has no slot. */
  placeOf(id: number): { segment: number; row: number } | undefined {
    // Ids rise from segment to segment.
    let low = 0;
    let high = this.before.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      const { ids, rowCount } = this.before[middle];
      if (rowCount === 0 || ids[rowCount - 1] < id) low = middle + 1;
      else high = middle;
    }
    const row = low < this.before.length ? this.before[low].slotOf(id) : -1;
    return row < 0 ? undefined : { segment: low, row };
  }

  *settle(): Steps<void> {
    for (const segment of this.copied) yield* this.segments[segment].settleSteps();
  }
}

/** Changes cells of a column in copies of their segments. @returns all segments, with the copies in place of those */
export function* cellsChangedBeside(
  before: readonly Segment[],
  column: number,
  cells: readonly { readonly segment: number; readonly row: number; readonly text: string }[],
): Generator<void, readonly Segment[]> {
  const copies = new SegmentCopies([...before]);
  let done = 0;
  for (const { segment, row, text } of cells) {
    if (++done % A_STEP === 0) yield;
    copies.at(segment).changeCellUnsettled(row, column, text);
  }
  yield* copies.settle();
  return copies.segments;
}

/** All rows that are there, in order, with others among them. */
function* merged(segments: readonly Segment[], others: readonly Row[]): Generator<Row> {
  let next = 0;
  for (const segment of segments)
    for (let row = 0; row < segment.rowCount; row++) {
      if (!hasBit(segment.live, row)) continue;
      while (next < others.length && others[next].id < segment.ids[row]) yield others[next++];
      yield segment.rowAt(row);
    }
  while (next < others.length) yield others[next++];
}

/**
 * @param filled cells with those of borrowed columns looked up
 * @param make a segment of rows
 */
export function* changedBeside(
  before: readonly Segment[],
  edits: readonly { readonly id: number; readonly after: readonly string[] | null }[],
  filled: (cells: readonly string[]) => readonly string[],
  make: (rows: readonly Row[]) => Steps<Segment>,
): Generator<void, Changed> {
  const copies = new SegmentCopies(before);
  const rows: { segment: number; row: number }[] = [];
  const added: Row[] = [];
  let done = 0;
  for (const { id, after } of edits) {
    if (++done % A_STEP === 0) yield;
    const place = copies.placeOf(id);
    if (!place) {
      if (after) added.push({ id, cells: filled(after) });
      continue;
    }
    const segment = copies.at(place.segment);
    const isThere = hasBit(segment.live, place.row);
    if (after === null) {
      if (isThere) segment.remove(place.row);
    } else {
      if (!isThere) segment.restore(place.row);
      segment.changeUnsettled(place.row, filled(after));
    }
    rows.push(place);
  }
  yield* copies.settle();
  if (added.length === 0) return { segments: copies.segments, rows, added: 0 };
  added.sort((a, b) => a.id - b.id);
  const last = before.at(-1)?.ids.at(-1) ?? -Infinity;
  const isAtEnd = added[0].id > last;
  const segments = isAtEnd ? copies.segments : [];
  const sealing = new Sealing(segments, make);
  yield* sealing.append(isAtEnd ? added : merged(copies.segments, added), (row) => row, false);
  for (const segment of segments) for (const column of segment.columns) if (!column.isBuilt) yield* column.buildSteps();
  const isSame =
    isAtEnd && before.every(({ rowCount }, i) => i === before.length - 1 || segments[i].rowCount === rowCount);
  return { segments, rows: isSame ? rows : undefined, added: added.length };
}
