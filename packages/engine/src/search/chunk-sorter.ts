/**
 * What can be told of values by single chunks of theirs. Most hits lie within a word, and most chunks have no part in any:
 * so an automaton needs to be led through few values only.
 */
import { Dfa, MATCHED } from '../automaton/index.js';
import { clearedBeginning, SHARED_CHUNKS, wholeBytes, type Chunks, type WholeBytes } from '../store/index.js';
import { type ChunkReading, NO_STATE, readChunk, readOwn } from './chunk-reading.js';
import { tell } from './verdicts.js';

/** What can be said of a value with a chunk, whatever stands before it. Bits, since a value has several chunks; see `tell`. */
const Sort = {
  unknown: 0,
  /** The value hits. */
  hit: 1,
  /** The value has to be read. */
  open: 2,
  /** The chunk may change what another one says: the value has to be read. */
  odd: 4,
  /** The chunk has no part in a hit. */
  closed: 8,
} as const;

/** Of each value, the bits of all its chunks; kept from call to call, since there are many values. */
let gathered = wholeBytes(0);

export class ChunkSorter {
  private readonly shared = new Uint8Array(SHARED_CHUNKS);
  private readonly generation: number;
  /** The least that any reading can do after a space. */
  private readonly least: number;
  /** What closed chunks lead to, from it as from the start. */
  private readonly base: number;

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.least = dfa.afterSpace();
    this.base = dfa.runText(' ', Dfa.START);
    this.generation = dfa.generation;
  }

  /** False if nothing can be told by chunks alone, or the automaton has begun anew. */
  get valid(): boolean {
    const { dfa, base, least } = this;
    if (dfa.overgrown || !this.current || base < 0 || least < 0) return false;
    return !dfa.matchesAtEnd(Dfa.START) && !dfa.matchesAtEnd(base);
  }

  /** False once the automaton has begun anew: then the states that are known mean nothing. */
  private get current(): boolean {
    return this.generation === this.dfa.generation;
  }

  /**
   * Values that hit for certain, and those that have to be read.
   * @param asked YES for each value that is asked; becomes HIT for those that do, YES for those to be read, NO for the others
   * @param own whether chunks of the segment alone are looked at, too; if not, values with such a chunk may have to be read
   * @returns false if that could not be told; `asked` is then as it was
   */
  sort(chunks: Chunks, asked: WholeBytes, own: boolean): boolean {
    const { holders } = chunks;
    const { starts, values } = holders;
    if (gathered.length < asked.length) gathered = wholeBytes(asked.length);
    const told = clearedBeginning(gathered, asked.length);
    const ownSorts = own ? this.sortOwn(chunks) : undefined;
    for (let place = 0; place < holders.chunks.length; place++) {
      const chunk = holders.chunks[place];
      const sort =
        chunk < SHARED_CHUNKS
          ? (this.shared[chunk] ||= this.read(chunks, chunk))
          : ownSorts
            ? ownSorts[chunk - SHARED_CHUNKS]
            : Sort.open;
      if (sort === Sort.closed) continue;
      const end = starts[place + 1];
      for (let i = starts[place]; i < end; i++) told[values[i]] |= sort;
    }
    if (!this.valid) return false;
    tell(asked, told);
    return true;
  }

  /** Of each chunk of the segment alone; all `unknown` if the automaton has begun anew. */
  private sortOwn(chunks: Chunks): Uint8Array {
    const { dfa, reading, base, least } = this;
    const { own } = chunks;
    const sorts = new Uint8Array(own.size);
    const from = (state: number): Int32Array | undefined =>
      this.current ? readOwn(dfa, reading, own, state) : undefined;
    const first = from(Dfa.START);
    const later = least === Dfa.START ? first : from(least);
    const closed = base === least ? later : base === Dfa.START ? first : from(base);
    if (!first || !later || !closed) return sorts;
    for (let i = 0; i < sorts.length; i++) {
      const chunk = own.first + i;
      sorts[i] =
        (own.traits[i] & reading.trait) !== 0
          ? this.sortOf(chunks, chunk, first[i], later[i], closed[i])
          : this.read(chunks, chunk);
    }
    return sorts;
  }

  private read(chunks: Chunks, chunk: number): number {
    const { dfa, reading, base, least } = this;
    const read = (state: number): number => (this.current ? readChunk(dfa, reading, chunks, state, chunk) : NO_STATE);
    const first = read(Dfa.START);
    const later = least === Dfa.START ? first : read(least);
    const closed = base === least ? later : base === Dfa.START ? first : read(base);
    return this.sortOf(chunks, chunk, first, later, closed);
  }

  /** @param first, later, closed where the chunk leads to from the start, `least` and `base` */
  private sortOf(chunks: Chunks, chunk: number, first: number, later: number, closed: number): number {
    const { dfa, reading, base } = this;
    if (!this.current) return Sort.unknown;
    if (first === NO_STATE || later === NO_STATE || closed === NO_STATE) return Sort.odd;
    if (first === MATCHED && later === MATCHED) return Sort.hit;
    // After a chunk without a space at its end, only spaces may follow, and where they are not read the text ends there.
    const last = !chunks.endsInSpace(chunk);
    if (last && reading.trimmed) {
      if (dfa.matchesAtEnd(first) && dfa.matchesAtEnd(later)) return Sort.hit;
      return dfa.matchesAtEnd(first) || dfa.matchesAtEnd(closed) ? Sort.open : Sort.closed;
    }
    if (!last && this.matches(first) && this.matches(later)) return Sort.hit;
    return first === base && closed === base ? Sort.closed : Sort.open;
  }

  private matches(state: number): boolean {
    return state === MATCHED || this.dfa.matchesBefore(state);
  }
}
