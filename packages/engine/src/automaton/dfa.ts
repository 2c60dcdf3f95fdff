/**
 * Does a program match anywhere in a text? A deterministic automaton, built as the text asks for it; see `lazy-states.ts`.
 *
 * Source: R. Cox, "Regular Expression Matching in the Wild", 2010 (the lazily built automaton); assertions are settled when
 * the letter after them is known, with the letter before them kept in the state.
 *
 * A text can be read in parts: the state reached after one is where the next begins. That lets a caller who meets the same
 * parts again remember where they lead.
 */
import { LazyStates, MATCHED, OVERGROWN, START, UNKNOWN } from './lazy-states.js';

/** Texts of which it is tried whether they can be passed over, and states after which it is: to find out makes states, too. */
const A_TRY = 256;
const FEW_TRIED = 4;
const EVERY_KIND = -1;

/** Many texts of ASCII units. */
export interface Texts {
  readonly units: Uint8Array;
  /** Where in `units` each begins; it ends one before the next. */
  readonly starts: Uint32Array;
  /** Of each text, the kinds of all its units. */
  readonly kinds: Uint32Array;
  /** Of each ASCII unit, its kind, a bit. */
  readonly unitKinds: Uint32Array;
}

export class Dfa extends LazyStates {
  /** The state that every text begins in. A state is named by where its row of the table begins. */
  static readonly START = START;

  /**
   * Reads on from a state.
   * @param units each below 128
   * @param letters see `lettersOf`
   * @returns the state after the units from `from` up to `to`, or MATCHED, or OVERGROWN
   */
  run(units: Uint8Array, from: number, to: number, state: number, letters: Uint16Array): number {
    if (this.overgrown) return OVERGROWN;
    for (let i = from; ; i++) {
      // The loop that does nearly all the work calls nothing: so what it reads stays at hand.
      const { table } = this;
      let next = state;
      for (; i < to; i++) {
        next = table[state + letters[units[i]]];
        if (next < 0) break;
        state = next;
      }
      if (i === to) {
        this.lettersRead += to - from;
        return state;
      }
      if (next === UNKNOWN) next = this.step(state, letters[units[i]]);
      if (next < 0) {
        this.lettersRead += i - from;
        return next;
      }
      state = next;
    }
  }

  /**
   * As `run`, of any text.
   * @param starts one byte a unit, 1 where a character of the shown text begins; without it every code point is one
   */
  runText(text: string, state: number, starts?: Uint8Array): number {
    if (this.overgrown) return OVERGROWN;
    let { table } = this;
    for (let i = 0; i < text.length; i++) {
      let entry = starts?.[i] === 0 ? this.inside : 0;
      const unit = text.charCodeAt(i);
      if (unit < 256) entry += this.alphabet.first[unit];
      else {
        const codePoint = text.codePointAt(i)!;
        if (codePoint > 0xffff) i++;
        entry += this.alphabet.letter(codePoint);
      }
      let next = table[state + entry];
      if (next < 0) {
        if (next === UNKNOWN) {
          next = this.step(state, entry);
          table = this.table;
        }
        if (next < 0) {
          this.lettersRead += i;
          return next;
        }
      }
      state = next;
    }
    this.lettersRead += text.length;
    return state;
  }

  /** Kinds of units that lead elsewhere from a state. @param kinds of each ASCII unit, a bit */
  private moving(state: number, letters: Uint16Array, kinds: Uint32Array): number {
    const { begun } = this;
    let moving = 0;
    for (let unit = 0; unit < letters.length; unit++) {
      let next = this.table[state + letters[unit]];
      if (next === UNKNOWN) next = this.step(state, letters[unit]);
      if (this.begun !== begun) return -1;
      if (next !== state) moving |= kinds[unit];
    }
    return moving;
  }

  /**
   * As `run`, of many texts, all from one state.
   * @param which texts are read whose byte here has the bit
   * @param reached what `run` gives of each text that is read; written to
   * @returns false if the table was thrown away meanwhile, and nothing that was written means anything
   */
  runEach(
    { units, starts, kinds, unitKinds }: Texts,
    letters: Uint16Array,
    state: number,
    which: Uint8Array,
    bit: number,
    reached: Int32Array,
  ): boolean {
    const { begun } = this;
    // Where nothing in a text leads out of a state, it need not be read. That goes for the state after its first letter, too.
    const moving = this.moving(state, letters, unitKinds);
    if (this.begun !== begun) return false;
    const movingLater = new Map([[state, moving]]);
    let second = state;
    let secondMoving = moving;
    let { table } = this;
    let read = 0;
    let passedOver = 0;
    for (let number = 0; number < which.length; number++) {
      if ((which[number] & bit) === 0) continue;
      // Where hardly one of the first can be passed over, it is not looked for any more.
      const passes = number < A_TRY || passedOver > A_TRY >> 4;
      if (passes && (kinds[number] & moving) === 0) {
        reached[number] = state;
        passedOver++;
        continue;
      }
      let i = starts[number] | 0;
      const to = (starts[number + 1] | 0) - 1;
      let at = state;
      let next = passes ? table[state + letters[units[i]]] : UNKNOWN;
      if (next >= 0 && next !== second) {
        second = next;
        const known = movingLater.get(second);
        if (known === undefined && movingLater.size < FEW_TRIED) {
          movingLater.set(second, (secondMoving = this.moving(second, letters, unitKinds)));
          if (this.begun !== begun) return false;
          ({ table } = this);
        } else secondMoving = known ?? EVERY_KIND;
      }
      if (next >= 0 && (kinds[number] & secondMoving) === 0) {
        reached[number] = next;
        passedOver++;
        continue;
      }
      read -= i;
      for (; i < to; i++) {
        next = table[at + letters[units[i]]];
        if (next < 0) break;
        at = next;
      }
      read += i;
      if (i < to) {
        at = next === MATCHED ? next : this.run(units, i, to, at, letters);
        if (this.begun !== begun) return false;
        ({ table } = this);
      }
      reached[number] = at;
    }
    this.lettersRead += read + passedOver;
    return true;
  }

  /**
   * As `runEach`, where it is known what that gives from another state: mostly both come to the same after a letter or two.
   * @param reached what is known; becomes what is asked
   * @param other the state that it is known of
   */
  runEachBeside(
    { units, starts, kinds, unitKinds }: Texts,
    letters: Uint16Array,
    state: number,
    which: Uint8Array,
    bit: number,
    reached: Int32Array,
    other: number,
  ): boolean {
    const { begun } = this;
    const moving = this.moving(state, letters, unitKinds);
    if (this.begun !== begun) return false;
    let { table } = this;
    let read = 0;
    for (let number = 0; number < which.length; number++) {
      if ((which[number] & bit) === 0) continue;
      if ((kinds[number] & moving) === 0) {
        reached[number] = state;
        continue;
      }
      const from = starts[number] | 0;
      const to = (starts[number + 1] | 0) - 1;
      let at = state;
      let beside = other;
      let i = from;
      for (; i < to && at !== beside; i++) {
        const letter = letters[units[i]];
        const next = table[at + letter];
        beside = table[beside + letter];
        if (next < 0 || beside < 0) break;
        at = next;
      }
      read += i - from;
      if (at === beside) continue;
      reached[number] = i < to ? this.run(units, i, to, at, letters) : at;
      if (this.begun !== begun) return false;
      ({ table } = this);
    }
    this.lettersRead += read;
    return true;
  }

  /** Whether the program matches somewhere in a text. @param starts see `runText` */
  test(text: string, starts?: Uint8Array): boolean {
    const state = this.runText(text, Dfa.START, starts);
    return state === OVERGROWN ? this.simulation!.test(text, starts) : this.matchesAtEnd(state);
  }
}
