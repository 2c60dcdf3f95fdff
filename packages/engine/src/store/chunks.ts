/**
 * The distinct values of a column as sequences of chunks: a run of letters and signs with the spaces that follow it; spaces
 * at either end of a text are a chunk by themselves. Put together, its chunks are the value again, unit for unit. Values
 * are many and long, chunks few and short, so whoever remembers what a chunk does to them reads a value in a few steps.
 *
 * A number or date has two faces, shown and plain: their chunks stand one after the other, parted by `FACE_BREAK_CHUNK`. A
 * blank value has no chunks.
 *
 * Much the same chunks come in every segment of a column. Those of the first are shared by the others, under the same
 * numbers, so that what was learnt of them holds there too.
 */
import { isSpace } from '../text/index.js';
import { ChunkPool, Trait } from './chunk-pool.js';

/** Stands between the chunks of a value's two faces; is no text. */
export const FACE_BREAK_CHUNK = 0;

/** Chunks that more than one segment knows. */
export interface SharedChunks {
  readonly pool: ChunkPool;
  readonly numbers: ReadonlyMap<string, number>;
}

// No chunk is called so: a chunk begins with spaces only if it is nothing else.
const FACE_BREAK_NAME = ' face break';
const NONE_SHARED: SharedChunks = {
  pool: new ChunkPool([FACE_BREAK_NAME], FACE_BREAK_CHUNK),
  numbers: new Map([[FACE_BREAK_NAME, FACE_BREAK_CHUNK]]),
};

/** Where hardly a chunk comes twice there is nothing to remember. */
function repeats(chunks: number, distinct: number): boolean {
  return chunks > 2 * distinct;
}

function eachChunk(face: string, visit: (chunk: string) => void): void {
  let end = face.length;
  while (end > 0 && isSpace(face.charCodeAt(end - 1))) end--;
  let start = 0;
  for (let at = 0, spaced = false; at < end; at++) {
    const unit = face.charCodeAt(at);
    const space = unit <= 0x20 ? unit === 0x20 || isSpace(unit) : unit > 0x7f && isSpace(unit);
    if (spaced && !space) {
      visit(face.slice(start, at));
      start = at;
    }
    spaced = space;
  }
  visit(face.slice(start, end));
  if (end < face.length) visit(face.slice(end));
}

export class Chunks {
  private constructor(
    /** Those that other segments of the column know, too; the face break at least. */
    readonly sharing: SharedChunks,
    /** Those of this segment alone. */
    readonly own: ChunkPool,
    /** Chunks of value `v`: `sequence[starts[v]]` up to `sequence[starts[v + 1]]`. */
    readonly starts: Uint32Array,
    readonly sequence: Uint16Array | Uint32Array,
  ) {
    const values = starts.length - 1;
    this.single = own.size === values && starts.every((start, value) => start === value);
  }

  private poolOf(chunk: number): ChunkPool {
    return chunk < this.own.first ? this.sharing.pool : this.own;
  }

  at(chunk: number): string {
    return this.poolOf(chunk).at(chunk);
  }

  /** Whether a value has no unit above 127. */
  isAscii(value: number): boolean {
    for (let i = this.starts[value]; i < this.starts[value + 1]; i++) {
      const pool = this.poolOf(this.sequence[i]);
      if ((pool.traits[this.sequence[i] - pool.first] & Trait.ascii) === 0) return false;
    }
    return true;
  }

  isBlank(value: number): boolean {
    return this.starts[value] === this.starts[value + 1];
  }

  /** The sequence, if its chunks come often enough that it helps to remember what was learnt of them. */
  get repeating(): Uint16Array | undefined {
    const { sequence, own } = this;
    return sequence instanceof Uint16Array && repeats(sequence.length, own.size) ? sequence : undefined;
  }

  /** Whether each value is one chunk of its own: then value `v` is number `v` of `own`. */
  readonly single: boolean;

  /**
   * @param values the faces of each distinct value; none for a blank one
   * @param sharing what the first segment of the column has to share; nothing for the first segment itself
   */
  static of(values: Iterable<readonly string[]>, sharing?: SharedChunks): Chunks {
    const { pool: { end }, numbers: known } = sharing ?? NONE_SHARED; // prettier-ignore
    const numbers = new Map<string, number>();
    const starts = [0];
    const sequence: number[] = [];
    const put = (chunk: string): void => {
      let number = known.get(chunk) ?? numbers.get(chunk);
      if (number === undefined) numbers.set(chunk, (number = end + numbers.size));
      sequence.push(number);
    };
    for (const faces of values) {
      faces.forEach((face, i) => {
        if (i > 0) sequence.push(FACE_BREAK_CHUNK);
        eachChunk(face, put);
      });
      starts.push(sequence.length);
    }
    const own = [...numbers.keys()];
    let shared = sharing ?? NONE_SHARED;
    if (!sharing && repeats(sequence.length, own.length)) {
      shared = {
        pool: new ChunkPool([...known.keys(), ...own], FACE_BREAK_CHUNK),
        numbers: new Map([...known, ...numbers]),
      };
      own.length = 0;
    }
    const pool = new ChunkPool(own, shared.pool.end);
    // Half the size is read in half the time.
    const Sequence = pool.end <= 0x10000 ? Uint16Array : Uint32Array;
    return new Chunks(shared, pool, Uint32Array.from(starts), Sequence.from(sequence));
  }

  get bytes(): number {
    return this.own.bytes + this.starts.byteLength + this.sequence.byteLength;
  }
}
