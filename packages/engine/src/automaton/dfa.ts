/**
 * Does a program match anywhere in a text? A deterministic automaton, built as the text asks for it: a state is the set of
 * instructions that may be next, and each step is one look into a table. Its memory is bounded: when the table is full it
 * is thrown away and begun again, so that a text is always read in time linear in it.
 *
 * Source: R. Cox, "Regular Expression Matching in the Wild", 2010 (the lazily built automaton); assertions are settled when
 * the letter after them is known, with the letter before them kept in the state.
 *
 * A text can be read in parts: the state reached after one is where the next begins. That lets a caller who meets the same
 * parts again remember where they lead.
 */
import { Alphabet, holds, NO_LETTER } from './alphabet.js';
import { Look, Op, type Program } from './program.js';

const UNKNOWN = -2;
/** In place of a state: the program has matched, whatever follows. */
export const MATCHED = -1;
/** Entries a table may have: 4 bytes each. */
const TABLE_LIMIT = 1 << 20;

interface State {
  /** Instructions to go on from, not yet followed through branches and assertions; sorted. */
  readonly instructions: readonly number[];
  /** Bits of the letter before. */
  readonly before: number;
}

export class Dfa {
  /** The state that every text begins in. A state is named by where its row of the table begins. */
  static readonly START = 0;

  private readonly alphabet: Alphabet;
  /**
   * Entries of a row: one a letter; the same again for letters inside a character of the shown text, where a program asks;
   * and one for the end of the text.
   */
  private readonly width: number;
  /** How far the letters inside a character lie from the others; 0 if that is all one to the program. */
  private readonly inside: number;
  private readonly looks: boolean;
  private readonly states: State[] = [];
  private readonly rows = new Map<string, number>();
  private table: Int32Array;
  private readonly maxStates: number;
  private readonly marks: Uint32Array;
  private mark = 0;
  private begun = 0;

  constructor(private readonly program: Program) {
    this.alphabet = new Alphabet(program);
    this.inside = program.ops.includes(Op.ReadInside) ? this.alphabet.size : 0;
    this.width = this.alphabet.size + this.inside + 1;
    this.looks = program.ops.some((op, i) => op === Op.Assert && program.x[i] !== Look.Character);
    this.maxStates = Math.max(16, Math.floor(TABLE_LIMIT / this.width));
    this.table = new Int32Array(64 * this.width).fill(UNKNOWN);
    this.marks = new Uint32Array(program.ops.length);
    this.begin();
  }

  /** Rises each time the table is thrown away: states from before then mean nothing. */
  get generation(): number {
    return this.begun;
  }

  private begin(): void {
    this.states.length = 0;
    this.rows.clear();
    this.table.fill(UNKNOWN);
    this.begun++;
    this.row([this.program.start], this.looks ? NO_LETTER : 0);
  }

  private row(instructions: readonly number[], before: number): number {
    const key = `${before}:${instructions.join(',')}`;
    let row = this.rows.get(key);
    if (row !== undefined) return row;
    if (this.states.length >= this.maxStates) this.begin();
    row = this.states.length * this.width;
    this.states.push({ instructions, before });
    this.rows.set(key, row);
    if (row + this.width > this.table.length) {
      const larger = new Int32Array(this.table.length * 2).fill(UNKNOWN);
      larger.set(this.table);
      this.table = larger;
    }
    return row;
  }

  /**
   * Reading instructions reachable without reading, by what comes next.
   * @param first whether a character of the shown text begins next
   * @returns undefined if the end of the program is reachable
   */
  private closure({ instructions, before }: State, after: number, first: boolean): number[] | undefined {
    const { ops, x, y } = this.program;
    const reading: number[] = [];
    const stack = [...instructions];
    this.mark++;
    while (stack.length > 0) {
      const at = stack.pop()!;
      if (this.marks[at] === this.mark) continue;
      this.marks[at] = this.mark;
      switch (ops[at]) {
        case Op.Match:
          return undefined;
        case Op.Split:
          stack.push(y[at], x[at]);
          break;
        case Op.Assert:
          if (holds(x[at], before, after, first)) stack.push(y[at]);
          break;
        case Op.Read:
          reading.push(at);
          break;
        case Op.ReadFirst:
          if (first) reading.push(at);
          break;
        case Op.ReadInside:
          if (!first) reading.push(at);
          break;
        default:
      }
    }
    return reading;
  }

  /** @param entry a letter, or one `inside` farther */
  private step(from: number, entry: number): number {
    const { ops, x, y, start } = this.program;
    const first = entry < this.alphabet.size;
    const letter = first ? entry : entry - this.inside;
    const after = this.looks ? this.alphabet.bits[letter] : 0;
    const reading = this.closure(this.states[from / this.width], after, first);
    let to = MATCHED;
    if (reading) {
      const next = new Set([start]);
      for (const at of reading) if (ops[at] !== Op.Read || this.alphabet.has(x[at], letter)) next.add(y[at]);
      const { begun } = this;
      to = this.row([...next].sort((a, b) => a - b), after); // prettier-ignore
      // After a new beginning the state come from has gone, and so has its row.
      if (this.begun !== begun) return to;
    }
    this.table[from + entry] = to;
    return to;
  }

  /** What `run` reads the ASCII units as, if each is taken for what `as` makes of it. */
  lettersOf(as: (unit: number) => number): Uint16Array {
    return Uint16Array.from({ length: 128 }, (_, unit) => this.alphabet.first[as(unit)]);
  }

  /**
   * Reads on from a state.
   * @param units each below 128
   * @param letters see `lettersOf`
   * @returns the state after the units from `from` up to `to`, or MATCHED
   */
  run(units: Uint8Array, from: number, to: number, state: number, letters: Uint16Array): number {
    for (let i = from; ; i++) {
      // The loop that does nearly all the work calls nothing: so what it reads stays at hand.
      const { table } = this;
      let next = state;
      for (; i < to; i++) {
        next = table[state + letters[units[i]]];
        if (next < 0) break;
        state = next;
      }
      if (i === to) return state;
      if (next === UNKNOWN) next = this.step(state, letters[units[i]]);
      if (next === MATCHED) return MATCHED;
      state = next;
    }
  }

  /**
   * As `run`, of any text.
   * @param starts one byte a unit, 1 where a character of the shown text begins; without it every code point is one
   */
  runText(text: string, state: number, starts?: Uint8Array): number {
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
        if (next === MATCHED) return MATCHED;
      }
      state = next;
    }
    return state;
  }

  /**
   * As `test`, of many texts, each of them a stretch of units.
   * @param starts where each begins; it ends one before the next
   * @param asked 1 for each text that is to be tested; those that do not match become 0
   */
  testEach(units: Uint8Array, starts: Uint32Array, letters: Uint16Array, asked: Uint8Array): void {
    for (let number = 0; number < asked.length; number++) {
      if (asked[number] === 0) continue;
      const state = this.run(units, starts[number] | 0, (starts[number + 1] | 0) - 1, Dfa.START, letters);
      if (!this.matchesAtEnd(state)) asked[number] = 0;
    }
  }

  /** Whether the program has matched if the text ends after a state. */
  matchesAtEnd(state: number): boolean {
    if (state === MATCHED) return true;
    const end = state + this.width - 1;
    if (this.table[end] === UNKNOWN)
      this.table[end] = this.closure(this.states[state / this.width], NO_LETTER, true) ? Dfa.START : MATCHED;
    return this.table[end] === MATCHED;
  }

  /** Whether the program matches somewhere in a text. @param starts see `runText` */
  test(text: string, starts?: Uint8Array): boolean {
    return this.matchesAtEnd(this.runText(text, Dfa.START, starts));
  }
}
