/**
 * An automaton over the distinct values of a column, chunk by chunk. Where a chunk leads from a state is remembered, so that
 * a value costs a look-up a chunk however long its text: in a column of some thousand words a segment is read several
 * times faster than letter by letter.
 */
import { Dfa, MATCHED } from '../automaton/index.js';
import { FACE_BREAK_CHUNK, SHARED_CHUNKS, type Chunks, type WholeBytes, wordsOf } from '../store/index.js';
import { type ChunkReading, NO_STATE, readChunk, readPool } from './chunk-reading.js';
import { ChunkSorter } from './chunk-sorter.js';
import type { Sorted } from './chunk-sorts.js';
import { countYes, HIT, NO, settle, UNTOLD, YES } from './verdicts.js';

/**
 * What may be remembered of a state and a chunk, besides the state that it leads to: nothing yet; that the automaton has
 * matched; or that the chunk's form does not follow from the chunk alone.
 */
const UNKNOWN = 0;
const DONE = 1;
const LOST = 2;
/** The first state there is. They are numbered from here, and fit a byte. */
const FIRST = 3;
/** What becomes of a value by the state at its end; what is not known is still asked. */
const VERDICTS = Uint8Array.of(YES, HIT, UNTOLD, ...new Array<number>(253).fill(NO));
/** Bytes of memory; a segment has so few chunks of its own that there is always room for some states. */
const ROOM = 1 << 22;
const LEAST_BITS = 15;
const MOST_STATES = 256;
/** How often the memory may be full before nothing is remembered any more: then it does not help. */
const PATIENCE = 8;
/** Values that are soon read one by one. */
const FEW_VALUES = 1_024;
/** Values that are read before what was learnt in them is made use of. */
const A_BLOCK = 2_048;
/** Chunks of a segment alone, to each value that is asked, that are still looked at by themselves. */
const MANY_OWN = 2;
/** How many chunks are read unit by unit while the form of one is found. */
const FORM_COST = 20;
/** Chunks of a value that are read to its end, whatever comes. */
const SHORT = 32;
/** Values of a block that are gone through. */
const LISTED = new Uint32Array(A_BLOCK + 1);
const EACH_YES = 0x01010101;

/** One automaton's way through the segments of one column. */
export class ChunkWalk {
  /** At `(state << bits) | chunk`: the state that the chunk leads to. Look-ups of one state lie together, near in memory. */
  private memory = new Uint8Array(0);
  private bits = LEAST_BITS;
  /** The automaton's states by ours, and the other way round. */
  private readonly states: number[] = [];
  private numbers = new Uint8Array(64);
  private begun = 0;
  private generation = 0;
  private chunks: Chunks | undefined;
  private sorter: ChunkSorter | undefined;
  /** What it has found of the chunks of the segment alone, if it has been asked. */
  private sortedOwn: Sorted | undefined;
  /** Of so many states the sorter's findings of shared chunks were taken over, after so many beginnings. */
  private taken = 0;
  private takenBegun = 0;

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.begin();
  }

  private begin(): void {
    this.memory.fill(UNKNOWN);
    this.markEnds();
    this.states.length = 0;
    this.states.push(MATCHED, MATCHED, MATCHED, Dfa.START);
    this.numbers.fill(0);
    this.generation = this.dfa.generation;
    this.begun++;
  }

  /** Nothing leads out of the states that are none. */
  private markEnds(): void {
    const { memory, bits } = this;
    memory.fill(DONE, DONE << bits, (DONE + 1) << bits);
    memory.fill(LOST, LOST << bits, (LOST + 1) << bits);
  }

  /** @param asked YES for each value that is asked; those that do not hit become NO, or UNTOLD */
  ask(chunks: Chunks, asked: WholeBytes): void {
    const { dfa, reading } = this;
    if (dfa.overgrown) {
      for (let value = 0; value < asked.length; value++) if (asked[value] !== NO) asked[value] = UNTOLD;
      return;
    }
    const { repeating } = chunks;
    if (repeating && this.begun <= PATIENCE) {
      const left = this.sortFirst(chunks, asked);
      // Another column, or the sorting, may have made the automaton begin anew.
      if (this.generation !== dfa.generation) this.begin();
      if (left > 0) {
        this.enter(chunks);
        this.learnSorted(chunks, left);
        this.recall(chunks, repeating, asked);
      }
      settle(asked);
    } else if (chunks.single && (chunks.own.sharedTraits & reading.trait) !== 0) this.readSingle(chunks, asked);
    else this.readAll(chunks, asked);
  }

  /** Where many values are asked that share their chunks, chunks are asked first. @returns how many are still to be asked */
  private sortFirst(chunks: Chunks, asked: WholeBytes): number {
    const many = countYes(asked);
    this.sortedOwn = undefined;
    if (many < FEW_VALUES || chunks.holders.parted) return many;
    if (!this.sorter?.valid) {
      this.sorter = new ChunkSorter(this.dfa, this.reading);
      this.taken = 0;
    }
    const cost = chunks.own.size + FORM_COST * chunks.own.countLacking(this.reading.trait);
    if (!this.sorter.valid || !this.sorter.sort(chunks, asked, cost <= MANY_OWN * many)) return many;
    this.sortedOwn = this.sorter.own;
    return countYes(asked);
  }

  /** Makes room for the chunks of a segment; what was learnt of shared ones is kept. */
  private enter(chunks: Chunks): void {
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

  /** What the sorting has found of chunks. @param left values that are still to be read */
  private learnSorted(chunks: Chunks, left: number): void {
    const { sorter, begun } = this;
    if (sorter?.valid && sorter.shared && (this.taken !== sorter.shared.reached.length || this.takenBegun !== begun)) {
      this.take(sorter.shared, 0);
      this.taken = sorter.shared.reached.length;
      this.takenBegun = begun;
    }
    if (chunks.own.size > left) return;
    if (this.sortedOwn) this.take(this.sortedOwn, chunks.own.first);
    else this.learnOwn(chunks);
  }

  /** @param first the number of the pool's first chunk */
  private take({ reached }: Sorted, first: number): void {
    const { begun, bits } = this;
    for (const { from, states } of reached) {
      const row = this.number(from) << bits;
      // Most chunks lead to where the one before them did.
      let last = NO_STATE;
      let next = LOST;
      let { memory } = this;
      // What stands for a face break is read as what it is, not as a text.
      for (let i = first === FACE_BREAK_CHUNK ? 1 : 0; i < states.length; i++) {
        if (states[i] !== last) {
          last = states[i];
          next = this.stateOf(last);
          ({ memory } = this);
          if (this.begun !== begun) return;
        }
        memory[row | (first + i)] = next;
      }
    }
  }

  /** What each chunk of the segment alone leads to from the start, where most are read. */
  private learnOwn({ own }: Chunks): void {
    const { begun, reading, bits } = this;
    const reached = readPool(this.dfa, reading, own, Dfa.START)?.states;
    if (!reached) return;
    for (let i = 0; i < reached.length && this.begun === begun; i++) {
      if ((own.traits[i] & reading.trait) === 0) continue;
      const next = this.stateOf(reached[i]);
      if (this.begun === begun) this.memory[(FIRST << bits) | (own.first + i)] = next;
    }
  }

  private recall(chunks: Chunks, sequence: Uint16Array, asked: WholeBytes): void {
    // What one block had to learn, the next one knows.
    for (let from = 0; from < asked.length; from += A_BLOCK) {
      const unknown = this.recallKnown(chunks, sequence, asked, from, Math.min(from + A_BLOCK, asked.length));
      for (let i = 0; i < unknown; i++) asked[LISTED[i]] = this.recallOne(chunks, sequence, LISTED[i]);
    }
  }

  /**
   * Without branches that cannot be guessed, since a wrong guess costs more than reading some chunks: which values are asked
   * is listed first, and short ones are read to their end, whatever comes.
   * @returns how many there are that come to what is not known yet; they are in `LISTED`
   */
  private recallKnown(chunks: Chunks, sequence: Uint16Array, asked: WholeBytes, from: number, to: number): number {
    const { starts } = chunks;
    const { memory, bits } = this;
    let listed = 0;
    const words = wordsOf(asked);
    for (let value = from; value < to; value += 4) {
      const word = words[value >>> 2];
      if ((word & EACH_YES) === 0) continue;
      for (let i = 0; i < 4; i++) {
        LISTED[listed] = value + i;
        listed += (word >>> (i << 3)) & YES;
      }
    }
    let unknown = 0;
    for (let at = 0; at < listed; at++) {
      const value = LISTED[at];
      let i = starts[value] | 0;
      const end = starts[value + 1] | 0;
      if (i === end) {
        asked[value] = NO;
        continue;
      }
      let state = FIRST;
      if (end - i <= SHORT) for (; i < end; i++) state = memory[(state << bits) | sequence[i]];
      else
        for (; i < end && state >= FIRST; i++) {
          const next = memory[(state << bits) | sequence[i]];
          // Most chunks leave the state as it is: so the processor goes on without waiting for what the last look-up says.
          if (next !== state) state = next;
        }
      // The end is read as a face break: the text ends there, too.
      const verdict = VERDICTS[memory[(state << bits) | FACE_BREAK_CHUNK]];
      asked[value] = verdict;
      LISTED[unknown] = value;
      unknown += verdict & YES;
    }
    return unknown;
  }

  private recallOne(chunks: Chunks, sequence: Uint16Array, value: number): number {
    const { starts } = chunks;
    const { bits } = this;
    let state = FIRST;
    for (let i = starts[value]; i <= starts[value + 1] && state >= FIRST; i++) {
      const chunk = i < starts[value + 1] ? sequence[i] : FACE_BREAK_CHUNK;
      state = this.memory[(state << bits) | chunk] || this.learn(chunks, state, chunk);
    }
    return VERDICTS[state];
  }

  private learn(chunks: Chunks, state: number, chunk: number): number {
    const { begun } = this;
    const reached = readChunk(this.dfa, this.reading, chunks, this.states[state], chunk);
    if (this.generation !== this.dfa.generation) this.begin();
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

  /** Where each value is one chunk. */
  private readSingle(chunks: Chunks, asked: WholeBytes): void {
    const { dfa, reading } = this;
    const { own } = chunks;
    const reached = new Int32Array(asked.length);
    if (!dfa.runEach(own, reading.letters, Dfa.START, asked, YES, reached)) {
      this.readAll(chunks, asked);
      return;
    }
    for (let value = 0; value < asked.length; value++)
      if (asked[value] !== NO && !dfa.matchesAtEnd(reached[value])) asked[value] = NO;
  }

  private readAll(chunks: Chunks, asked: WholeBytes): void {
    const { dfa, reading } = this;
    const { sequence, starts, own } = chunks;
    const firsts = this.firstStates(chunks, asked);
    const { generation } = dfa;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] === NO) continue;
      const from = starts[value];
      const to = starts[value + 1];
      let state: number = Dfa.START;
      for (let i = from; i < to && state >= 0; i++) {
        const at = sequence[i] - own.first;
        const known = at >= 0 && state === Dfa.START && firsts && (own.traits[at] & reading.trait) !== 0;
        state =
          known && generation === dfa.generation ? firsts[at] : readChunk(dfa, reading, chunks, state, sequence[i]);
      }
      if (state === NO_STATE) asked[value] = UNTOLD;
      else asked[value] = from < to && dfa.matchesAtEnd(state) ? YES : NO;
    }
  }

  /** What chunks of the segment alone lead to from the start, if they can be read unit by unit; undefined if few are needed. */
  private firstStates({ own }: Chunks, asked: WholeBytes): Int32Array | undefined {
    return own.size > 2 * countYes(asked) ? undefined : readPool(this.dfa, this.reading, own, Dfa.START)?.states;
  }
}
