/**
 * Does a program match anywhere in a text? A deterministic automaton, built as the text asks for it; see `lazy-states.ts`.
 *
 * Source: R. Cox, "Regular Expression Matching in the Wild", 2010 (the lazily built automaton); assertions are settled when
 * the letter after them is known, with the letter before them kept in the state.
 *
 * A text can be read in parts: the state reached after one is where the next begins. That lets a caller who meets the same
 * parts again remember where they lead.
 */
import { MOST_ENTRIES, NOT_TRIED, reader, type Texts } from './each-text.js';
import { LazyStates, OVERGROWN, START, UNKNOWN } from './lazy-states.js';
import { rest } from './pace.js';

/** States of which it is found out what moves them, by each reading of many texts: to find out makes states, too. */
const FEW_TRIED = 4;
const EVERY_KIND = -1;

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
   * Does what `run` does, of any text.
   * @param starts one byte a unit, 1 where a character of the shown text begins; without it every code point is one
   * @param rests whether time may be found to be up between states, which take long to be made of a large program
   * @throws TimeIsUp; asked again, it comes by the states that were made
   */
  runText(text: string, state: number, starts?: Uint8Array, rests = false): number {
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
          if (rests && this.isLarge) rest();
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

  private after(state: number, letter: number): number {
    const next = this.table[state + letter];
    return next === UNKNOWN ? this.step(state, letter) : next;
  }

  /**
   * Kinds of units that lead elsewhere from a state than to itself, or than they lead from another.
   * @param groups of each ASCII unit, a bit
   */
  moving(state: number, letters: Uint16Array, groups: Uint32Array, other?: number): number {
    const { begun } = this;
    let moving = 0;
    for (let unit = 0; unit < letters.length; unit++) {
      const next = this.after(state, letters[unit]);
      const same = other === undefined || this.begun !== begun ? state : this.after(other, letters[unit]);
      if (this.begun !== begun) return EVERY_KIND;
      if (next !== same) moving |= groups[unit];
    }
    return moving === NOT_TRIED ? EVERY_KIND : moving;
  }

  /**
   * Gives the reader the states that have been made, and one that leads on.
   * @param known how many entries of the table it knows
   * @returns how many it knows then; 0 if they are too many
   */
  private giveStates(known: number, state = known): number {
    const used = this.entries;
    if (used > MOST_ENTRIES) return 0;
    reader.table.set(this.table.subarray(state, Math.min(state + this.width, used)), state);
    reader.table.set(this.table.subarray(known, used), known);
    reader.moving.fill(NOT_TRIED, known, used);
    reader.ends.fill(NOT_TRIED, known, used);
    return used;
  }

  /**
   * Reads many texts, all from one state, some at a time: then the reader has what was reached of them.
   * @param which texts are read whose byte here has the bit
   * @param begin, end what is done with texts before they are read, and after
   * @param other if it is known what another state leads to, and `begin` gives it to the reader: that state
   * @returns false if the table was thrown away meanwhile
   */
  private readBlocks(
    texts: Texts,
    letters: Uint16Array,
    state: number,
    which: Uint8Array,
    bit: number,
    begin: (from: number, count: number) => void,
    end: (from: number, count: number) => void,
    other?: number,
  ): boolean {
    const { begun } = this;
    const { halt, moving } = reader;
    const movingFrom = (from: number): number => this.moving(from, letters, texts.unitGroups);
    reader.letters.set(letters);
    reader.path[0] = state;
    halt.depth = 0;
    let known = this.giveStates(0);
    moving[state] = movingFrom(state);
    if (this.begun !== begun) return false;
    known = this.giveStates(known, state);
    let tried = 1;
    for (let from = 0; from < which.length;) {
      const count = known > 0 ? reader.take(texts, which, from) : 0;
      if (count === 0) {
        // A text that is too long for a block, or too many states.
        reader.which[0] = which[from];
        begin(from, 1);
        if ((which[from] & bit) !== 0)
          reader.reached[0] = this.run(texts.units, texts.starts[from], texts.starts[from + 1] - 1, state, letters);
        if (this.begun !== begun) return false;
        known = this.giveStates(known);
        end(from, 1);
        halt.depth = 0;
        from++;
        continue;
      }
      begin(from, count);
      let text = 0;
      while (known > 0) {
        text =
          other === undefined
            ? reader.read(text, count, bit, halt.depth)
            : reader.readBeside(text, count, bit, state, other, halt.depth);
        this.lettersRead += halt.read;
        halt.read = 0;
        if (text === count) break;
        if (halt.letter >= 0) this.step(halt.state, halt.letter);
        else moving[halt.state] = tried++ < FEW_TRIED ? movingFrom(halt.state) : EVERY_KIND;
        if (this.begun !== begun) return false;
        known = this.giveStates(known, halt.state);
      }
      end(from, text);
      from += text;
    }
    return true;
  }

  /**
   * Does what `run` does, of many texts, all from one state.
   * @param which texts are read whose byte here has the bit
   * @param reached what `run` gives of each text that is read, else 0; written to
   * @param other if it is known what that is from another state, and `reached` has it: that state
   * @returns false if the table was thrown away meanwhile, and nothing that was written means anything
   */
  runEach(
    texts: Texts,
    letters: Uint16Array,
    state: number,
    which: Uint8Array,
    bit: number,
    reached: Int32Array,
    other?: number,
  ): boolean {
    const begin = (from: number, count: number): void => {
      if (other === undefined) reader.reached.fill(0, 0, count);
      else reader.reached.set(reached.subarray(from, from + count));
    };
    const end = (from: number, count: number): void => reached.set(reader.reached.subarray(0, count), from);
    return this.readBlocks(texts, letters, state, which, bit, begin, end, other);
  }

  /**
   * Tells whether the program matches in each of many texts.
   * @param which texts are read whose byte here has the bit; where there is no match the byte becomes 0
   * @returns false if the table was thrown away meanwhile, and only some were read
   */
  testEach(texts: Texts, letters: Uint16Array, which: Uint8Array, bit: number): boolean {
    const { ends, halt, reached } = reader;
    const end = (from: number, count: number): void => {
      if (this.entries > MOST_ENTRIES) {
        for (let text = 0; text < count; text++)
          if ((which[from + text] & bit) !== 0 && !this.matchesAtEnd(reached[text])) which[from + text] = 0;
        return;
      }
      for (let text = 0; (text = reader.judge(text, count, bit)) < count;)
        ends[halt.state] = this.matchesAtEnd(halt.state) ? 1 : 0;
      which.set(reader.which.subarray(0, count), from);
    };
    return this.readBlocks(texts, letters, START, which, bit, () => undefined, end);
  }

  /** Tells whether the program matches somewhere in a text. @param starts see `runText` */
  test(text: string, starts?: Uint8Array): boolean {
    if (text.length < this.least) return false;
    const state = this.runText(text, Dfa.START, starts, true);
    return state === OVERGROWN ? this.simulation!.test(text, starts) : this.matchesAtEnd(state);
  }
}
