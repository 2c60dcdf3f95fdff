/** Chunks and the values that each comes in: the sequences of `chunks.ts`, turned round. */
import type { PackReader, PackWriter } from './pack.js';
import { StepMeter, type Steps } from '../steps.js';
import { firstAtLeast } from './rising.js';
import { FACE_BREAK_CHUNK, SHARED_CHUNKS } from './shared-chunks.js';

/** Chunks of values that are put in one step. */
const A_STEP = 1 << 19;

export class ChunkHolders {
  private constructor(
    /** Numbers of the chunks that come in the sequences, rising; the face break is none. */
    readonly chunks: Uint32Array,
    /** Values with the chunk at place `p` of `chunks`: `values[starts[p]]` up to `values[starts[p + 1]]`. */
    readonly starts: Uint32Array,
    /** The place from which on the values of a chunk do not begin with it: those that do come first. */
    readonly laters: Uint32Array,
    /** There are at most 65,536 values in a segment. */
    readonly values: Uint16Array,
    /** Whether a value has more than one face. */
    readonly parted: boolean,
  ) {}

  /**
   * Turns sequences round, some chunks at a time.
   * @param valueStarts, sequence see `Chunks` @param end one past the largest number of a chunk
   */
  static *steps(valueStarts: Uint32Array, sequence: Uint16Array | Uint32Array, end: number): Steps<ChunkHolders> {
    const meter = new StepMeter(A_STEP);
    const counts = new Uint32Array(end);
    for (let value = 0; value + 1 < valueStarts.length; value++) {
      if (meter.fills(valueStarts[value + 1] - valueStarts[value] + 1)) yield;
      for (let i = valueStarts[value]; i < valueStarts[value + 1]; i++) counts[sequence[i]]++;
    }
    const parted = counts[FACE_BREAK_CHUNK] > 0;
    counts[FACE_BREAK_CHUNK] = 0;
    const firsts = new Uint32Array(end);
    for (let value = 0; value + 1 < valueStarts.length; value++)
      if (valueStarts[value] < valueStarts[value + 1]) firsts[sequence[valueStarts[value]]]++;
    const used: number[] = [];
    const nextFirst = new Uint32Array(end);
    const next = new Uint32Array(end);
    const starts = [0];
    const laters: number[] = [];
    for (let chunk = 0, at = 0; chunk < end; chunk++) {
      if (counts[chunk] === 0) continue;
      used.push(chunk);
      nextFirst[chunk] = at;
      laters.push((next[chunk] = at + firsts[chunk]));
      starts.push((at += counts[chunk]));
    }
    yield;
    const values = new Uint16Array(starts[starts.length - 1]);
    for (let value = 0; value + 1 < valueStarts.length; value++) {
      const first = valueStarts[value];
      if (meter.fills(valueStarts[value + 1] - first + 1)) yield;
      for (let i = first; i < valueStarts[value + 1]; i++) {
        if (sequence[i] === FACE_BREAK_CHUNK) continue;
        const places = i === first ? nextFirst : next;
        values[places[sequence[i]]++] = value;
      }
    }
    return new ChunkHolders(Uint32Array.from(used), Uint32Array.from(starts), Uint32Array.from(laters), values, parted);
  }

  /** The first place of a chunk of the segment alone. */
  get firstOwn(): number {
    return firstAtLeast(this.chunks, SHARED_CHUNKS);
  }

  pack(to: PackWriter): void {
    to.numbers(this.chunks);
    to.numbers(this.starts);
    to.numbers(this.laters);
    to.numbers(this.values);
    to.count(this.parted ? 1 : 0);
  }

  static unpacked(from: PackReader): ChunkHolders {
    return new ChunkHolders(from.u32(), from.u32(), from.u32(), from.u16(), from.count() === 1);
  }

  get bytes(): number {
    return this.chunks.byteLength + this.starts.byteLength + this.laters.byteLength + this.values.byteLength;
  }
}
