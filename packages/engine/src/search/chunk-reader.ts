/**
 * An automaton over the distinct values of a column, chunk by chunk. Where a chunk leads from a state is remembered, so that
 * a value costs a look-up a chunk however long its text: in a column of some thousand words a segment is read several
 * times faster than letter by letter.
 */
import { Dfa, MATCHED } from '../automaton/index.js';
import {
  FACE_BREAK_CHUNK,
  SHARED_CHUNKS,
  type Cell,
  type Chunks,
  type ColumnSegment,
  type SharedChunks,
} from '../store/index.js';
import { type ChunkReading, NO_STATE, readChunk } from './chunk-reading.js';
import { ChunkSorter } from './chunk-sorter.js';
import { spend } from './pace.js';

/**
 * What may be remembered of a state and a chunk, besides the state that it leads to: nothing yet; that the automaton has
 * matched; or that the chunk's form does not follow from the chunk alone. The latter two are verdicts on a value, too.
 */
const UNKNOWN = 0;
const HIT = 1;
const UNTOLD = 2;
/** The first state there is. They are numbered from here, and fit a byte. */
const FIRST = 3;
/** Of a value that is known to hit, by its chunks alone; an even number, unlike 1, of those that are still asked. */
const SORTED = 254;
/** Bytes of memory; a segment has so few chunks of its own that there is always room for some states. */
const ROOM = 1 << 22;
const LEAST_BITS = 15;
const MOST_STATES = 256;
/** How often the memory may be full before nothing is remembered any more: then it does not help. */
const PATIENCE = 8;
/** Values that are soon read one by one. */
const FEW_VALUES = 1_024;

/** How many values are still to be asked. */
function countOf(asked: Uint8Array): number {
  let count = 0;
  for (let value = 0; value < asked.length; value++) count += asked[value] & 1;
  return count;
}

/** One automaton's way through the segments of one column. */
class ChunkWalk {
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

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.begin();
  }

  private begin(): void {
    this.memory.fill(UNKNOWN);
    this.states.length = 0;
    this.states.push(MATCHED, MATCHED, MATCHED, Dfa.START);
    this.numbers.fill(0);
    this.generation = this.dfa.generation;
    this.begun++;
  }

  /** @param asked 1 for each value that is asked; becomes 0, HIT or UNTOLD */
  ask(chunks: Chunks, asked: Uint8Array): void {
    const { dfa, reading } = this;
    if (dfa.overgrown) {
      for (let value = 0; value < asked.length; value++) if (asked[value] !== 0) asked[value] = UNTOLD;
      return;
    }
    const { repeating } = chunks;
    if (repeating && this.begun <= PATIENCE) {
      const left = this.sortFirst(chunks, asked);
      // Another column, or the sorting, may have made the automaton begin anew.
      if (this.generation !== dfa.generation) this.begin();
      if (left > 0) {
        this.enter(chunks);
        this.recall(chunks, repeating, asked);
      }
      // What is SORTED becomes HIT; only that has the highest bit.
      for (let value = 0; value < asked.length; value++) {
        const sorted = asked[value] >>> 7;
        asked[value] = (asked[value] & 3 & ~(sorted << 1)) | sorted;
      }
    } else if (chunks.single && (chunks.own.sharedTraits & reading.trait) !== 0)
      dfa.testEach(chunks.own.units, chunks.own.starts, reading.letters, asked, UNTOLD);
    else this.readAll(chunks, asked);
  }

  /** Where many values are asked that share their chunks, chunks are asked first. @returns how many are still to be asked */
  private sortFirst(chunks: Chunks, asked: Uint8Array): number {
    const many = countOf(asked);
    if (many < FEW_VALUES || chunks.holders.parted) return many;
    if (!this.sorter?.valid) this.sorter = new ChunkSorter(this.dfa, this.reading);
    return this.sorter.valid && this.sorter.sort(chunks, asked, SORTED, 2 * chunks.own.size <= many)
      ? countOf(asked)
      : many;
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
    for (let at = SHARED_CHUNKS; at < this.memory.length; at += 1 << this.bits)
      this.memory.fill(UNKNOWN, at, at + end - SHARED_CHUNKS);
    this.widen();
  }

  private recall(chunks: Chunks, sequence: Uint16Array, asked: Uint8Array): void {
    const { starts } = chunks;
    const { bits } = this;
    let { memory } = this;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] !== 1) continue;
      const to = starts[value + 1] | 0;
      let i = starts[value] | 0;
      if (i === to) {
        asked[value] = 0;
        continue;
      }
      let state = FIRST;
      // Most chunks leave the state as it is; so the processor goes on without waiting for what the last look-up says.
      for (; i < to; i++) {
        let next = memory[(state << bits) | sequence[i]];
        if (next === state) continue;
        if (next === UNKNOWN) {
          next = this.learn(chunks, state, sequence[i]);
          ({ memory } = this);
        }
        state = next;
        if (state < FIRST) break;
      }
      // The end is read as a face break: the text ends there, too.
      if (state >= FIRST) {
        state = memory[(state << bits) | FACE_BREAK_CHUNK] || this.learn(chunks, state, FACE_BREAK_CHUNK);
        ({ memory } = this);
      }
      asked[value] = state >= FIRST ? 0 : state;
    }
  }

  private learn(chunks: Chunks, state: number, chunk: number): number {
    const { begun } = this;
    const reached = readChunk(this.dfa, this.reading, chunks, this.states[state], chunk);
    if (this.generation !== this.dfa.generation) this.begin();
    const next = reached === MATCHED ? HIT : reached === NO_STATE ? UNTOLD : this.number(reached);
    // After a new beginning the state come from is another one.
    if (this.begun === begun) this.memory[(state << this.bits) | chunk] = next;
    return next;
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
  }

  private readAll(chunks: Chunks, asked: Uint8Array): void {
    const { sequence, starts } = chunks;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] === 0) continue;
      const from = starts[value];
      const to = starts[value + 1];
      let state: number = Dfa.START;
      for (let i = from; i < to && state >= 0; i++)
        state = readChunk(this.dfa, this.reading, chunks, state, sequence[i]);
      if (state === NO_STATE) asked[value] = UNTOLD;
      else asked[value] = from < to && this.dfa.matchesAtEnd(state) ? HIT : 0;
    }
  }
}

/** Asks the distinct values of columns, and remembers from segment to segment. */
export class ChunkReader {
  private readonly walks = new Map<SharedChunks, ChunkWalk>();

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {}

  /**
   * @param asked 1 for each value that is asked; those that do not hit become 0. Of a reading that was stopped, as it left it
   * @param test what is asked of a cell that cannot be told chunk by chunk
   * @throws TimeIsUp between two such cells
   */
  judge(column: ColumnSegment, asked: Uint8Array, test: (cell: Cell) => boolean): void {
    if (!asked.includes(UNTOLD)) {
      const { chunks } = column;
      let walk = this.walks.get(chunks.shared);
      if (!walk) this.walks.set(chunks.shared, (walk = new ChunkWalk(this.dfa, this.reading)));
      walk.ask(chunks, asked);
    }
    for (let value = asked.indexOf(UNTOLD); value >= 0; value = asked.indexOf(UNTOLD, value + 1)) {
      const cell = column.valueCell(value);
      spend(cell.raw.length);
      asked[value] = test(cell) ? HIT : 0;
    }
  }
}
