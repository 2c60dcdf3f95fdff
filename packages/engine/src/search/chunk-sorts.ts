/** What each chunk says of the values that it comes in, by an automaton that reads them, whatever stands beside it. */
import { Dfa, MATCHED } from '../automaton/index.js';
import { SHARED_CHUNKS, Trait, type ChunkPool } from '../store/index.js';
import { type ChunkReading, type Forms, formsOf, NO_STATE, type Reached, readForm, readPool } from './chunk-reading.js';
import { Said } from './verdicts.js';

/** In place of what is said: the value hits, unless the chunk is its first. */
export const LATER = 64;
/** States that chunks may lead to, of which it is worth while to know which chunks heed them. */
const MOST_LEADING = 4;

/** States that are kept apart while chunks are gone through. */
const FEW_STATES = 15;
const NOT_KNOWN = 255;

/** What the chunks of a pool say, by their place in it. */
export interface Sorted {
  /** Bits of `Said`; LATER; or 0 of a chunk that says nothing, a *closed* one. */
  readonly sorts: Uint8Array;
  /** The states that each leads to: from the start, after a closed one, after those that lead elsewhere. */
  readonly reached: Reached[];
  /** The forms of those that are not read unit by unit. */
  readonly forms: Forms;
  /** Of so many of the leading states it is known which chunks heed them. */
  heeded: number;
  /** How many chunks do. */
  heeding: number;
}

export class ChunkSorts {
  private readonly generation: number;
  /** What closed chunks lead to, from it as from the start. */
  private readonly base: number;
  /** The least that any reading can do after a space. */
  private readonly least: number;
  /** States after chunks that may change what the chunk after them does. */
  private readonly leading: number[] = [];

  /** Numbers of states, at a place more than NO_STATE; 0 of those that have none. */
  private numbers = new Uint8Array(0);
  private numbered = 0;
  /** Of the numbers of four states, four bits each, the sort that a chunk is of which leads there. */
  private readonly known = new Uint8Array(1 << 13).fill(NOT_KNOWN);
  /** Of the chunks of one segment after the other. */
  private readonly rooms: Int32Array[] = [];

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.base = dfa.runText(' ', Dfa.START);
    // Where all spaces are read alike, and it is all one what stands before them, every reading has come by one from the start.
    this.least = reading.trimmed && !dfa.looks ? this.base : dfa.afterSpace();
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

  /** False if chunks lead to so many states that what heeds them is not told: then values with such a chunk have to be read. */
  get tellsHeed(): boolean {
    return this.leading.length <= MOST_LEADING;
  }

  /** @returns undefined if the automaton has begun anew meanwhile */
  of(pool: ChunkPool): Sorted | undefined {
    const { reading, base, least } = this;
    const forms = formsOf(pool, reading);
    const reached: Reached[] = [];
    const statesFrom = (state: number): Int32Array | undefined => this.reached(pool, forms, state, reached);
    const first = statesFrom(Dfa.START);
    const closed = statesFrom(base);
    const later = statesFrom(least);
    if (!first || !closed || !later) return undefined;
    const sorts = this.sortAll(pool, first, later, closed);
    return this.current ? { sorts, reached, forms, heeded: 0, heeding: 0 } : undefined;
  }

  /**
   * Chunks are many, and lead to few states: these are numbered, and of four numbers it is known what they come to.
   * @param first, later, closed of each chunk: see `sortOf`
   */
  private sortAll(pool: ChunkPool, first: Int32Array, later: Int32Array, closed: Int32Array): Uint8Array {
    const { traits, size } = pool;
    const { known } = this;
    const sorts = new Uint8Array(size);
    const { entries } = this.dfa;
    if (this.numbers.length < entries - NO_STATE) {
      const numbers = new Uint8Array(2 * entries - NO_STATE);
      numbers.set(this.numbers);
      this.numbers = numbers;
    }
    const { numbers } = this;
    const numberOf = (state: number): number =>
      (numbers[state - NO_STATE] = this.numbered < FEW_STATES ? ++this.numbered : 0);
    // Mostly all chunks are read from one state.
    const alike = first === later && first === closed;
    for (let i = 0; i < size; i++) {
      const f = first[i];
      const l = alike ? f : later[i];
      const c = alike ? f : closed[i];
      const spaced = traits[i] & Trait.spaced;
      const a = numbers[f - NO_STATE] || numberOf(f);
      const b = alike ? a : numbers[l - NO_STATE] || numberOf(l);
      const d = alike ? a : numbers[c - NO_STATE] || numberOf(c);
      const at = a | (b << 4) | (d << 8) | (spaced << 10);
      let sort = known[at];
      if (sort === NOT_KNOWN) {
        sort = this.sortOf(f, l, c, spaced !== 0);
        if (a !== 0 && b !== 0 && d !== 0) known[at] = sort;
      }
      sorts[i] = sort;
    }
    return sorts;
  }

  /** Finds which chunks heed what others lead to, as far as that is not known yet. */
  heed(pool: ChunkPool, sorted: Sorted): void {
    const { sorts, forms } = sorted;
    const { traits } = pool;
    const closed = this.reached(pool, forms, this.base, sorted.reached);
    for (; this.tellsHeed && sorted.heeded < this.leading.length; sorted.heeded++) {
      const reached = this.reached(pool, forms, this.leading[sorted.heeded], sorted.reached);
      if (!reached || !closed) return;
      for (let i = 0; i < sorts.length; i++) {
        if (reached[i] === closed[i] || (sorts[i] & ~(Said.leads | Said.heeds)) !== 0) continue;
        if ((traits[i] & Trait.spaced) === 0 && !this.dfa.matchesAtEnd(reached[i])) continue;
        if ((sorts[i] & Said.heeds) === 0) sorted.heeding++;
        sorts[i] |= Said.heeds;
      }
    }
  }

  /**
   * Where each chunk of a pool leads to from a state; NO_STATE of one that has no form.
   * @param known what is known already; added to
   */
  private reached(pool: ChunkPool, forms: Forms, state: number, known: Reached[]): Int32Array | undefined {
    const { dfa, reading } = this;
    if (!this.current) return undefined;
    const same = known.find(({ from }) => from === state);
    if (same) return same.states;
    const reached = readPool(dfa, reading, pool, state, known[0], this.room(pool, known.length));
    if (!reached) return undefined;
    for (const [i, form] of forms) reached.states[i] = this.current ? readForm(dfa, form, state) : NO_STATE;
    if (!this.current) return undefined;
    known.push(reached);
    return reached.states;
  }

  /** Where it is put what a pool's chunks lead to from one state more: that of shared chunks is kept. */
  private room({ first, size }: ChunkPool, place: number): Int32Array {
    if (first < SHARED_CHUNKS) return new Int32Array(size);
    const room = this.rooms[place];
    return (room?.length >= size ? room : (this.rooms[place] = new Int32Array(2 * size))).subarray(0, size);
  }

  /**
   * @param first, later, closed where the chunk leads to from the start, `least` and `base`
   * @param spaced whether it has a space at its end: then another follows; else the text ends there
   */
  private sortOf(first: number, later: number, closed: number, spaced: boolean): number {
    const { dfa, base } = this;
    if (!this.current) return Said.odd;
    if (first === NO_STATE || later === NO_STATE || closed === NO_STATE) return Said.odd;
    if (first === MATCHED && later === MATCHED) return Said.hit;
    // Where spaces are not all read alike, a chunk may lead to what no other can be told after.
    if (!this.reading.trimmed) {
      if (spaced && this.matches(first) && this.matches(later)) return Said.hit;
      return first === base && closed === base ? 0 : Said.odd;
    }
    // Spaces alone are not read: what comes after them comes as the first.
    if (spaced && first === Dfa.START && base !== Dfa.START) return Said.odd;
    const hits = (state: number): boolean => (spaced ? this.matches(state) : dfa.matchesAtEnd(state));
    if (hits(later)) return hits(first) ? Said.hit : LATER;
    if (hits(first) || hits(closed)) return Said.open;
    if (!spaced || (first === base && closed === base)) return 0;
    this.lead(first);
    this.lead(closed);
    return Said.leads;
  }

  private lead(state: number): void {
    if (state !== this.base && !this.leading.includes(state)) this.leading.push(state);
  }

  private matches(state: number): boolean {
    return state === MATCHED || this.dfa.matchesBefore(state);
  }
}
