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

/**
 * What may be remembered of a state and a chunk, besides the state that it leads to: nothing yet; that the automaton has
 * matched; or that the chunk's form does not follow from the chunk alone. The latter two are verdicts on a value, too.
 */
const UNKNOWN = 0;
const HIT = 1;
const UNTOLD = 2;
/** The first state there is. They are numbered from here, and fit a byte. */
const FIRST = 3;
/** Bytes of memory, if there are not too many chunks even for a few states. */
const ROOM = 1 << 21;
const LEAST_SHIFT = 3;
const MOST_SHIFT = 8;
/** How often the memory may be full before nothing is remembered any more: then it does not help. */
const PATIENCE = 8;
/** In place of a state of the automaton: after a chunk whose form does not follow from the chunk alone. */
const NO_STATE = -3;

/** A chunk's form, and where in it characters of the shown text begin, if that may matter: see `Dfa.runText`. */
export interface ChunkForm {
  readonly text: string;
  readonly starts?: Uint8Array;
}

/** How chunks are read. */
export interface ChunkReading {
  /** What each ASCII unit is read as: see `Dfa.lettersOf`. */
  readonly letters: Uint16Array;
  /** The trait of chunks that are read so as they lie. */
  readonly trait: number;
  /** The form of any other chunk; undefined if the value must be looked at as a whole. */
  readonly form: (chunk: string) => ChunkForm | undefined;
}

/** One automaton's way through the segments of one column. */
class ChunkWalk {
  /** At `(chunk << shift) | state`: where the chunk leads. */
  private memory = new Uint8Array(0);
  private shift = LEAST_SHIFT;
  /** The automaton's states by ours, and the other way round. */
  private readonly states: number[] = [];
  private numbers = new Uint8Array(64);
  private begun = 0;
  private generation = 0;
  private chunks: Chunks | undefined;

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
    const { repeating } = chunks;
    // Another column may have made the automaton begin anew.
    if (this.generation !== dfa.generation) this.begin();
    if (repeating && this.begun <= PATIENCE) {
      this.enter(chunks);
      this.recall(chunks, repeating, asked);
    } else if (chunks.single && (chunks.own.sharedTraits & reading.trait) !== 0)
      dfa.testEach(chunks.own.units, chunks.own.starts, reading.letters, asked);
    else this.readAll(chunks, asked);
  }

  /** Makes room for the chunks of a segment; what was learnt of shared ones is kept. */
  private enter(chunks: Chunks): void {
    if (chunks === this.chunks) return;
    this.chunks = chunks;
    const { end } = chunks.own;
    if (this.shift > LEAST_SHIFT && end << this.shift > ROOM) {
      this.shift = LEAST_SHIFT;
      this.begin();
    }
    const [from, to] = [SHARED_CHUNKS << this.shift, end << this.shift];
    if (this.memory.length >= to) this.memory.fill(UNKNOWN, from);
    else {
      const larger = new Uint8Array(to);
      larger.set(this.memory.subarray(0, from));
      this.memory = larger;
    }
  }

  private recall(chunks: Chunks, sequence: Uint16Array, asked: Uint8Array): void {
    const { starts } = chunks;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] === 0) continue;
      const from = starts[value] | 0;
      const to = starts[value + 1] | 0;
      let state = FIRST;
      for (let i = from; i < to; i++) {
        const { memory, shift } = this;
        // The loop that does nearly all the work calls nothing: so what it reads stays at hand.
        let next = state;
        for (; i < to; i++) {
          next = memory[(sequence[i] << shift) | state];
          if (next < FIRST) break;
          state = next;
        }
        if (i === to) break;
        state = next === UNKNOWN ? this.learn(chunks, state, sequence[i]) : next;
        if (state < FIRST) break;
      }
      // The end is read as a face break: the text ends there, too.
      if (state >= FIRST)
        state = this.memory[(FACE_BREAK_CHUNK << this.shift) | state] || this.learn(chunks, state, FACE_BREAK_CHUNK);
      asked[value] = state >= FIRST || from === to ? 0 : state;
    }
  }

  private learn(chunks: Chunks, state: number, chunk: number): number {
    const { begun } = this;
    const reached = this.read(chunks, this.states[state], chunk);
    if (this.generation !== this.dfa.generation) this.begin();
    const next = reached === MATCHED ? HIT : reached === NO_STATE ? UNTOLD : this.number(chunks, reached);
    // After a new beginning the state come from is another one.
    if (this.begun === begun) this.memory[(chunk << this.shift) | state] = next;
    return next;
  }

  private number(chunks: Chunks, state: number): number {
    // Most chunks lead back to where all begins.
    if (state === Dfa.START) return FIRST;
    if (this.numbers[state]) return this.numbers[state];
    if (this.states.length === 1 << this.shift) {
      if (this.shift === MOST_SHIFT || chunks.own.end << (this.shift + 1) > ROOM) {
        this.begin();
        return this.number(chunks, state);
      }
      this.widen();
    }
    if (state >= this.numbers.length) {
      const larger = new Uint8Array(2 * state);
      larger.set(this.numbers);
      this.numbers = larger;
    }
    this.numbers[state] = this.states.length;
    return this.states.push(state) - 1;
  }

  private widen(): void {
    const wider = new Uint8Array(this.memory.length * 2);
    const states = 1 << this.shift;
    for (let at = 0; at < this.memory.length; at += states) wider.set(this.memory.subarray(at, at + states), at * 2);
    this.memory = wider;
    this.shift++;
  }

  private readAll(chunks: Chunks, asked: Uint8Array): void {
    const { sequence, starts } = chunks;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] === 0) continue;
      const from = starts[value];
      const to = starts[value + 1];
      let state: number = Dfa.START;
      for (let i = from; i < to && state >= 0; i++) state = this.read(chunks, state, sequence[i]);
      if (state === NO_STATE) asked[value] = UNTOLD;
      else asked[value] = from < to && this.dfa.matchesAtEnd(state) ? HIT : 0;
    }
  }

  /** The automaton's state after a chunk; MATCHED or NO_STATE. */
  private read(chunks: Chunks, state: number, chunk: number): number {
    const { dfa, reading } = this;
    if (chunk === FACE_BREAK_CHUNK) return dfa.matchesAtEnd(state) ? MATCHED : Dfa.START;
    const pool = chunks.poolOf(chunk);
    const at = chunk - pool.first;
    if ((pool.traits[at] & reading.trait) !== 0)
      return dfa.run(pool.units, pool.starts[at], pool.starts[at + 1] - 1, state, reading.letters);
    const form = reading.form(pool.at(chunk));
    return form ? dfa.runText(form.text, state, form.starts) : NO_STATE;
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
   * @param asked 1 for each value that is asked; those that do not hit become 0
   * @param test what is asked of a cell that cannot be told chunk by chunk
   */
  judge(column: ColumnSegment, asked: Uint8Array, test: (cell: Cell) => boolean): void {
    const { chunks } = column;
    let walk = this.walks.get(chunks.shared);
    if (!walk) this.walks.set(chunks.shared, (walk = new ChunkWalk(this.dfa, this.reading)));
    walk.ask(chunks, asked);
    for (let value = asked.indexOf(UNTOLD); value >= 0; value = asked.indexOf(UNTOLD, value + 1))
      asked[value] = test(column.valueCell(value)) ? HIT : 0;
  }
}
