/** How rows that are added become segments: they wait until they fill one, or until no more come at once. */
import { hasBit } from './bits.js';
import { SEGMENT_ROWS, type Row, type Segment } from './segment.js';
import type { Steps } from '../steps.js';

/** The first segment is short, so that where a search takes long its first rows are there soon. */
const FIRST_ROWS = 16_384;
/** A short last segment is rebuilt with what is added to it; so many rows at most keep that cheap. Their slots are whole words. */
const TAIL_ROWS = 256;
/**
 * Letters of the longest cells of a segment's rows, beyond which it is full whatever its rows are; and those beyond which a short
 * last segment is not rebuilt with what is added to it.
 */
const SEGMENT_LETTERS = 1 << 24;
const TAIL_LETTERS = 1 << 20;
/** Rows that are taken in one step. */
const A_STEP = 2_048;
/** How many short segments become one, once they are full: their slots stay as they are. */
const TAILS = 16;

function capacity(segment: number): number {
  return segment === 0 ? FIRST_ROWS : SEGMENT_ROWS;
}

/** Removed rows, too: they keep their slots, so that one that is brought back finds its place, and no other one moves. */
function rowsOf(segments: readonly Segment[]): Row[] {
  return segments.flatMap((segment) => Array.from({ length: segment.rowCount }, (_, row) => segment.rowAt(row)));
}

function longest({ cells }: Row): number {
  let most = 0;
  for (const { length } of cells) if (length > most) most = length;
  return most;
}

function letters(segments: readonly Segment[]): number {
  return segments.reduce((sum, { letters: more }) => sum + more, 0);
}

export class Sealing {
  private waiting: Row[] = [];
  private lettersWaiting = 0;
  /** Rises when segments are joined: what went through them one by one has to begin anew. */
  joins = 0;

  /**
   * @param segments those of the table; changed
   * @param make a segment of rows
   */
  constructor(
    private readonly segments: Segment[],
    private readonly make: (rows: readonly Row[]) => Steps<Segment>,
  ) {}

  /** Whether there are rows in no segment yet. */
  get waits(): boolean {
    return this.waiting.length > 0;
  }

  /**
   * @param fill what is to be done with each row first
   * @param more whether more are to come at once
   * @throws RangeError if the ids do not rise
   */
  *append(rows: Iterable<Row>, fill: (row: Row) => Row, more: boolean): Steps<void> {
    let taken = 0;
    for (const row of rows) {
      if (++taken % A_STEP === 0) yield;
      const last = this.waiting.at(-1)?.id ?? this.segments.at(-1)?.ids.at(-1) ?? -Infinity;
      if (row.id <= last) throw new RangeError(`row id ${row.id} does not come after ${last}`);
      const filled = fill(row);
      this.waiting.push(filled);
      this.lettersWaiting += longest(filled);
      if (this.waiting.length === capacity(this.segments.length) || this.lettersWaiting >= SEGMENT_LETTERS)
        yield* this.seal();
    }
    if (!more) yield* this.seal();
  }

  private *seal(): Steps<void> {
    let rows = this.waiting;
    if (rows.length === 0) return;
    const more = this.lettersWaiting;
    this.waiting = [];
    this.lettersWaiting = 0;
    yield* this.joinTails();
    const last = this.segments.at(-1);
    const many = this.segments.length === 0 || rows.length > TAIL_ROWS;
    const room = many ? capacity(this.segments.length - 1) : TAIL_ROWS;
    const takes = last && last.letters + more <= (many ? SEGMENT_LETTERS : TAIL_LETTERS) && last.rowCount < room;
    const tail = takes && (!many || last.rowCount <= rows.length) ? [last] : [];
    this.segments.length -= tail.length;
    rows = rowsOf(tail).concat(rows);
    for (let first = true; rows.length > 0; first = false) {
      const size = many ? capacity(this.segments.length) : TAIL_ROWS;
      yield* this.push(rows.slice(0, size), first ? tail : []);
      rows = rows.slice(size);
    }
  }

  private *joinTails(): Steps<void> {
    const tails = this.segments.slice(-TAILS);
    if (tails.length < TAILS || tails.some(({ rowCount }) => rowCount !== TAIL_ROWS)) return;
    if (letters(tails) > SEGMENT_LETTERS) return;
    this.segments.length -= TAILS;
    this.joins++;
    yield* this.push(rowsOf(tails), tails);
  }

  /** @param before segments whose rows come first among these: what was removed of them stays so */
  private *push(rows: readonly Row[], before: readonly Segment[]): Steps<void> {
    const segment = yield* this.make(rows);
    let start = 0;
    for (const { live, rowCount } of before) {
      for (let row = 0; row < rowCount; row++) if (!hasBit(live, row)) segment.remove(start + row);
      start += rowCount;
    }
    this.segments.push(segment);
  }
}
