/** Verdicts of chunks on the values that they come in, by an automaton that reads them, whatever stands beside it. */
import { Dfa, MATCHED } from '../../automaton/index.js';
import { Trait, type ChunkPool } from '../../store/index.js';
import { ChunkPaths, joined } from './chunk-paths.js';
import { type ChunkReading, type Forms, formsOf, NO_STATE, type Reached } from './chunk-reading.js';
import { Said } from './verdicts.js';

/**
 * Stands in place of what is said where the value hits, unless the chunk is its first. If it is, the chunk says nothing, or with the bit more
 * the value has to be read.
 */
export const LATER = 64;
export const LATER_OPEN = LATER | Said.open;
/** States that chunks may lead to, of which it is worth while to know which chunks heed them. */
const MOST_LEADING = 4;

/** How many chunks are read after one another while one is read by itself, and while the form of one is found. */
const MOVED_COST = 3;
const FORM_COST = 20;

/** States that are kept apart while chunks are gone through. */
const FEW_STATES = 15;
const NOT_KNOWN = 255;

/** The verdicts of the chunks of a pool, by their place in it. */
export interface Classified {
  /** Bits of `Said`; LATER or LATER_OPEN; or 0 of a chunk that says nothing, a *closed* one. */
  readonly classes: Uint8Array;
  /** If they are few, the places of all that may say something. */
  noted: Uint32Array | undefined;
  /** The states that each leads to: after a closed one first, from the start, after those that lead elsewhere. */
  readonly reached: Reached[];
  /** The forms of those that are not read unit by unit. */
  readonly forms: Forms;
  /** The leading states of which it is known which chunks heed them. */
  heeded: number;
  /** How many chunks do. */
  heeding: number;
}

export class ChunkClasses {
  /** The state that closed chunks lead to, from it as from the start. */
  private readonly base: number;
  /** The least that any reading can do after a space. */
  private readonly least: number;
  /** States after chunks that may change what the chunk after them does. */
  private readonly leading: number[] = [];
  private mostHeed = false;

  /** Numbers of states, at a place more than NO_STATE; 0 of those that have none. */
  private numbers = new Uint8Array(0);
  private numbered = 0;
  /** The class of a chunk by where it leads to: the numbers of four states, four bits each. */
  private readonly known = new Uint8Array(1 << 13).fill(NOT_KNOWN);
  private readonly paths: ChunkPaths;

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.base = dfa.runText(' ', Dfa.START);
    // Where all spaces are read alike, and it is all one what stands before them, every reading has come by one from the start.
    this.least = reading.trimmed && !dfa.looks ? this.base : dfa.afterSpace();
    this.paths = new ChunkPaths(dfa, reading);
  }

  /** False if nothing can be told by chunks alone, or the automaton has begun anew. */
  get valid(): boolean {
    const { dfa, base, least } = this;
    if (dfa.overgrown || !this.paths.current || base < 0 || least < 0) return false;
    return !dfa.matchesAtEnd(Dfa.START) && !dfa.matchesAtEnd(base);
  }

  /**
   * False if chunks lead to so many states that what heeds them is not told, or if most heed one: then values with such a chunk
   * have to be read.
   */
  get tellsHeed(): boolean {
    return !this.mostHeed && this.leading.length <= MOST_LEADING;
  }

  /**
   * @param worth it is not worth while to read more chunks than so many
   * @returns undefined if it is not worth while, or if the automaton has begun anew meanwhile
   */
  of(pool: ChunkPool, worth = Infinity): Classified | undefined {
    const { reading, base, least } = this;
    const left = worth - FORM_COST * pool.countLacking(reading.trait);
    const most = pool.size <= left ? Infinity : left / MOVED_COST;
    // From where words begin fewest chunks lead elsewhere.
    const moved = this.paths.moved(pool, base, most);
    if (!moved && most !== Infinity) return undefined;
    const forms = formsOf(pool, reading);
    const reached: Reached[] = [];
    const closed = this.paths.reached(pool, forms, base, reached, moved);
    const first = this.paths.reached(pool, forms, Dfa.START, reached);
    const later = this.paths.reached(pool, forms, least, reached);
    if (!first || !closed || !later) return undefined;
    const noted = this.noted(first, later, closed);
    const classes = this.classifyAll(pool, first.states, later.states, closed.states, noted);
    return this.paths.current ? { classes, noted, reached, forms, heeded: 0, heeding: 0 } : undefined;
  }

  /** If they are few, the places of all chunks that may say something: others lead to the same as a space does. */
  private noted(first: Reached, later: Reached, closed: Reached): Uint32Array | undefined {
    const { base } = this;
    if (this.classOf(base, base, base, true) !== 0 || this.classOf(base, base, base, false) !== 0) return undefined;
    let { moved } = closed;
    for (const one of first === later ? [first] : [first, later])
      if (one !== closed) moved = moved && one.parted && joined(moved, one.parted);
    return moved;
  }

  /**
   * Chunks are many, and lead to few states: these are numbered, and of four numbers it is known what they come to.
   * @param first, later, closed of each chunk: see `classOf`
   * @param places of the chunks that are classified; without them, all
   */
  private classifyAll(
    pool: ChunkPool,
    first: Int32Array,
    later: Int32Array,
    closed: Int32Array,
    places: Uint32Array | undefined,
  ): Uint8Array {
    const { traits, size } = pool;
    const { known } = this;
    const classes = new Uint8Array(size);
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
    const count = places ? places.length : size;
    for (let k = 0; k < count; k++) {
      const i = places ? places[k] : k;
      const f = first[i];
      const l = alike ? f : later[i];
      const c = alike ? f : closed[i];
      const spaced = traits[i] & Trait.spaced;
      const a = numbers[f - NO_STATE] || numberOf(f);
      const b = alike ? a : numbers[l - NO_STATE] || numberOf(l);
      const d = alike ? a : numbers[c - NO_STATE] || numberOf(c);
      const at = a | (b << 4) | (d << 8) | (spaced << 10);
      let verdict = known[at];
      if (verdict === NOT_KNOWN) {
        verdict = this.classOf(f, l, c, spaced !== 0);
        if (a !== 0 && b !== 0 && d !== 0) known[at] = verdict;
      }
      classes[i] = verdict;
    }
    return classes;
  }

  /** Finds which chunks heed what others lead to, as far as that is not known yet. */
  heed(pool: ChunkPool, classified: Classified): void {
    const { classes, forms } = classified;
    const { traits } = pool;
    const closed = this.paths.reached(pool, forms, this.base, classified.reached);
    for (; this.tellsHeed && classified.heeded < this.leading.length; classified.heeded++) {
      const state = this.leading[classified.heeded];
      const moved = this.paths.moved(pool, state);
      // What does not lead out of the state heeds it.
      if (moved) this.mostHeed = true;
      const reached = moved ? undefined : this.paths.reached(pool, forms, state, classified.reached);
      if (!reached || !closed) return;
      const places = reached.parted;
      classified.noted = classified.noted && places && joined(classified.noted, places);
      const count = places ? places.length : classes.length;
      for (let k = 0; k < count; k++) {
        const i = places ? places[k] : k;
        const after = reached.states[i];
        if (after === closed.states[i] || (classes[i] & ~(Said.leads | Said.heeds)) !== 0) continue;
        if ((traits[i] & Trait.spaced) === 0 && !this.dfa.matchesAtEnd(after)) continue;
        if ((classes[i] & Said.heeds) === 0) classified.heeding++;
        classes[i] |= Said.heeds;
      }
    }
  }

  /**
   * @param first, later, closed where the chunk leads to from the start, `least` and `base`
   * @param spaced whether it has a space at its end: then another follows; else the text ends there
   */
  private classOf(first: number, later: number, closed: number, spaced: boolean): number {
    const { dfa, base } = this;
    if (!this.paths.current) return Said.odd;
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
    if (hits(later)) return hits(first) ? Said.hit : !spaced || first === base ? LATER : LATER_OPEN;
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
