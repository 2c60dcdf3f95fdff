/** Where the chunks of a column lead an automaton, as far as that has been learnt. */
import { Dfa, MATCHED } from '../../automaton/index.js';
import { FACE_BREAK_CHUNK, SHARED_CHUNKS, type Chunks } from '../../store/index.js';
import { type ChunkReading, NO_STATE, type Reached, readChunk, readPool } from './chunk-reading.js';
import type { Classified } from './chunk-classes.js';

/**
 * The things that may be remembered of a state and a chunk, besides the state that it leads to: nothing yet; that the automaton has
 * matched; or that the chunk's form does not follow from the chunk alone.
 */
const UNKNOWN = 0;
export const DONE = 1;
const LOST = 2;
/** The first state there is. They are numbered from here, and fit a byte. */
export const FIRST = 3;
/** Bytes of memory; a segment has so few chunks of its own that there is always room for some states. */
const ROOM = 1 << 22;
const LEAST_BITS = 15;
const MOST_STATES = 256;

export class ChunkMemory {
  /** The state that a chunk leads to, at `(state << bits) | chunk`. Look-ups of one state lie together, near in memory. */
  memory = new Uint8Array(0);
  bits = LEAST_BITS;
  /** The automaton's states by ours, and the other way round. */
  private readonly states: number[] = [];
  private numbers = new Uint8Array(64);
  /** Rises each time all is forgotten. */
  begun = 0;
  private generation = 0;
  private chunks: Chunks | undefined;
  /** The states of which it has been taken over where shared chunks lead. */
  private taken = 0;

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.begin();
  }

  /** Forgets all, if the automaton has begun anew. */
  follow(): void {
    if (this.generation !== this.dfa.generation) this.begin();
  }

  private begin(): void {
    this.memory.fill(UNKNOWN);
    this.markEnds();
    this.states.length = 0;
    this.states.push(MATCHED, MATCHED, MATCHED, Dfa.START);
    this.numbers.fill(0);
    this.generation = this.dfa.generation;
    this.taken = 0;
    this.begun++;
  }

  /** Nothing leads out of the states that are none. */
  private markEnds(): void {
    const { memory, bits } = this;
    memory.fill(DONE, DONE << bits, (DONE + 1) << bits);
    memory.fill(LOST, LOST << bits, (LOST + 1) << bits);
  }

  /** Makes room for the chunks of a segment; what was learnt of shared ones is kept. */
  enter(chunks: Chunks): void {
    if (chunks === this.chunks) return;
    this.chunks = chunks;
    const { end } = chunks.own;
    if (end > 1 << this.bits) {
      while (end > 1 << this.bits) this.bits++;
      this.memory = new Uint8Array(0);
      this.begin();
    }
    for (let at = (FIRST << this.bits) | SHARED_CHUNKS; at < this.memory.length; at += 1 << this.bits)
      this.memory.fill(UNKNOWN, at, at + end - SHARED_CHUNKS);
    this.widen();
  }

  /** Learns what classifiers have found of the chunks that segments share; what is known already is not learnt again. */
  takeShared({ reached }: Classified): void {
    if (this.taken === reached.length) return;
    // What stands for a face break is read as what it is, not as a text.
    if (reached.every((one) => this.put(one, 0, FACE_BREAK_CHUNK + 1))) this.taken = reached.length;
  }

  /** Learns what a classifier has found of the chunks of the segment alone. */
  takeOwn({ reached }: Classified, { own }: Chunks): void {
    reached.every((one) => this.put(one, own.first));
  }

  /** Learns what each chunk of the segment alone leads to from the start, where most are read. */
  learnOwn({ own }: Chunks): void {
    const { trait } = this.reading;
    const reached = readPool(this.dfa, this.reading, own, Dfa.START);
    if (!reached) return;
    if (!this.put(reached, own.first) || own.countLacking(trait) === 0) return;
    const row = FIRST << this.bits;
    for (let i = 0; i < own.size; i++) if ((own.traits[i] & trait) === 0) this.memory[row | (own.first + i)] = UNKNOWN;
  }

  /**
   * @param first the number of the pool's first chunk @param start the first one to be taken
   * @returns false if all was forgotten meanwhile
   */
  private put({ from, states }: Reached, first: number, start = 0): boolean {
    const { begun, bits } = this;
    const row = this.number(from) << bits;
    // Most chunks lead to where the one before them did.
    let last = NO_STATE;
    let next = LOST;
    let { memory } = this;
    if (this.begun !== begun) return false;
    for (let i = start; i < states.length; i++) {
      if (states[i] !== last) {
        last = states[i];
        next = this.stateOf(last);
        ({ memory } = this);
        if (this.begun !== begun) return false;
      }
      memory[row | (first + i)] = next;
    }
    return true;
  }

  /** @returns the state that a chunk leads to from one of ours */
  learn(chunks: Chunks, state: number, chunk: number): number {
    const { begun } = this;
    const reached = readChunk(this.dfa, this.reading, chunks, this.states[state], chunk);
    this.follow();
    const next = this.stateOf(reached);
    // After a new beginning the state come from is another one.
    if (this.begun === begun) this.memory[(state << this.bits) | chunk] = next;
    return next;
  }

  private stateOf(reached: number): number {
    return reached === MATCHED ? DONE : reached === NO_STATE ? LOST : this.number(reached);
  }

  private number(state: number): number {
    // Most chunks lead back to where all begins.
    if (state === Dfa.START) return FIRST;
    if (this.numbers[state]) return this.numbers[state];
    if (this.states.length === Math.min(MOST_STATES, ROOM >>> this.bits)) {
      this.begin();
      return this.number(state);
    }
    if (state >= this.numbers.length) {
      const larger = new Uint8Array(2 * state);
      larger.set(this.numbers);
      this.numbers = larger;
    }
    this.numbers[state] = this.states.length;
    this.states.push(state);
    this.widen();
    return this.states.length - 1;
  }

  /** Makes room for the states there are. */
  private widen(): void {
    const needed = this.states.length << this.bits;
    if (needed <= this.memory.length) return;
    const wider = new Uint8Array(Math.max(needed, 2 * this.memory.length));
    wider.set(this.memory);
    this.memory = wider;
    this.markEnds();
  }
}
