/**
 * The distinct values of a column as sequences of chunks: a run of letters and signs with the spaces that follow it; spaces
 * at either end of a text are a chunk by themselves. Put together, its chunks are the value again, unit for unit. Values
 * are many and long, chunks few and short, so whoever remembers what a chunk does to them reads a value in a few steps.
 *
 * A number or date has several faces (shown, plain, as brought in): their chunks stand one after the other, parted by
 * `FACE_BREAK_CHUNK`. A blank value has no chunks.
 *
 * Much the same chunks come in every segment of a column: those that come more than once are shared.
 */
import { isSpace, TextMap } from '../text/index.js';
import { ChunkHolders } from './chunk-holders.js';
import { ChunkPool, Trait } from './chunk-pool.js';
import type { PackReader, PackWriter } from './pack.js';
import { FACE_BREAK_CHUNK, SHARED_CHUNKS, type SharedChunks } from './shared-chunks.js';
import { finished, StepMeter, type Steps } from '../steps.js';

/** Stands for the face break in a sequence while the chunks are still being gathered, before they have their final numbers. */
const FACE_BREAK = -1;

/** Letters that are cut into chunks in one step; a value is as much work as so many besides. */
const A_STEP = 1 << 17;
const A_VALUE = 32;

/** Tells whether chunks come again: where hardly one comes twice there is nothing to remember. */
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
  private builtHolders: ChunkHolders | undefined;

  private constructor(
    readonly shared: SharedChunks,
    /** The chunks of this segment alone, numbered from `SHARED_CHUNKS` on. */
    readonly own: ChunkPool,
    /** Chunks of value `v`: `sequence[starts[v]]` up to `sequence[starts[v + 1]]`. */
    readonly starts: Uint32Array,
    readonly sequence: Uint16Array | Uint32Array,
  ) {
    const values = starts.length - 1;
    this.single = own.size === values && starts.every((start, value) => start === value);
  }

  pack(to: PackWriter): void {
    this.own.pack(to);
    to.numbers(this.starts);
    to.count(this.sequence.BYTES_PER_ELEMENT);
    to.numbers(this.sequence);
    to.count(this.builtHolders ? 1 : 0);
    this.builtHolders?.pack(to);
  }

  static unpacked(from: PackReader, shared: SharedChunks): Chunks {
    const [own, starts] = [ChunkPool.unpacked(from), from.u32()];
    const chunks = new Chunks(shared, own, starts, from.count() === 2 ? from.u16() : from.u32());
    if (from.count() === 1) chunks.builtHolders = ChunkHolders.unpacked(from);
    return chunks;
  }

  poolOf(chunk: number): ChunkPool {
    return chunk < SHARED_CHUNKS ? this.shared.pool : this.own;
  }

  at(chunk: number): string {
    return this.poolOf(chunk).at(chunk);
  }

  private traitsOf(chunk: number): number {
    const pool = this.poolOf(chunk);
    return pool.traits[chunk - pool.first];
  }

  endsInSpace(chunk: number): boolean {
    return (this.traitsOf(chunk) & Trait.spaced) !== 0;
  }

  /** Tells whether a value has no unit above 127. */
  isAscii(value: number): boolean {
    for (let i = this.starts[value]; i < this.starts[value + 1]; i++)
      if ((this.traitsOf(this.sequence[i]) & Trait.ascii) === 0) return false;
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

  /** The values that each chunk comes in. */
  get holders(): ChunkHolders {
    return (this.builtHolders ??= finished(ChunkHolders.steps(this.starts, this.sequence, this.own.end)));
  }

  /** Builds what is asked for at each search: the values that each chunk comes in, and the segment's own chunks by their units. */
  *holdersSteps(): Steps<void> {
    if (!this.builtHolders) {
      const holders = yield* ChunkHolders.steps(this.starts, this.sequence, this.own.end);
      this.builtHolders ??= holders;
    }
    yield;
    void this.own.byGroup;
  }

  /** Whether each value is one chunk of its own: then value `v` is number `v` of `own`. */
  readonly single: boolean;

  /**
   * @param values the faces of each distinct value; none for a blank one
   * @param shared takes in what comes more than once
   */
  static of(values: Iterable<readonly string[]>, shared: SharedChunks): Chunks {
    return finished(Chunks.steps(values, shared));
  }

  /** Does what `of` does, some values at a time. */
  static *steps(values: Iterable<readonly string[]>, shared: SharedChunks): Steps<Chunks> {
    const found = new TextMap<number>();
    const meter = new StepMeter(A_STEP);
    const counts: number[] = [];
    const starts = [0];
    const sequence: number[] = [];
    const put = (chunk: string): void => {
      let number = found.get(chunk);
      if (number === undefined) {
        found.set(chunk, (number = found.size));
        counts.push(0);
      }
      counts[number]++;
      sequence.push(number);
    };
    for (const faces of values) {
      faces.forEach((face, i) => {
        if (i > 0) sequence.push(FACE_BREAK);
        eachChunk(face, put);
      });
      starts.push(sequence.length);
      if (meter.fills(A_VALUE + faces.reduce((letters, face) => letters + face.length, 0))) yield;
    }
    yield;
    shared.add([...found.keys()].filter((chunk, i) => counts[i] > 1 && shared.numberOf(chunk) === undefined));
    yield;
    const own: string[] = [];
    const numbers = Array.from(found.keys(), (chunk) => shared.numberOf(chunk) ?? SHARED_CHUNKS + own.push(chunk) - 1);
    yield;
    const pool = ChunkPool.of(own, SHARED_CHUNKS);
    yield;
    // Half the size is read in half the time.
    const Sequence = pool.end <= 0x10000 ? Uint16Array : Uint32Array;
    const numbered = new Sequence(sequence.length);
    for (let i = 0; i < sequence.length; i++) {
      if (meter.fills(1)) yield;
      numbered[i] = sequence[i] === FACE_BREAK ? FACE_BREAK_CHUNK : numbers[sequence[i]];
    }
    return new Chunks(shared, pool, Uint32Array.from(starts), numbered);
  }

  get bytes(): number {
    return this.own.bytes + this.starts.byteLength + this.sequence.byteLength + (this.builtHolders?.bytes ?? 0);
  }
}
