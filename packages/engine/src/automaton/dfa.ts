/**
 * Does a program match anywhere in a text? A deterministic automaton, built as the text asks for it: a state is the set of
 * instructions that may be next, and each step is one look into a table. Its memory is bounded: when the table is full it
 * is thrown away and begun again, so that a text is always read in time linear in it.
 *
 * Source: R. Cox, "Regular Expression Matching in the Wild", 2010 (the lazily built automaton); assertions are settled when
 * the letter after them is known, with the letter before them kept in the state.
 */
import { Alphabet, holds, NO_LETTER } from './alphabet.js';
import { Look, Op, type Program } from './program.js';

const UNKNOWN = -2;
const MATCHED = -1;
/** Entries a table may have: 4 bytes each. */
const TABLE_LIMIT = 1 << 20;

interface State {
  /** Instructions to go on from, not yet followed through branches and assertions; sorted. */
  readonly instructions: readonly number[];
  /** Bits of the letter before. */
  readonly before: number;
}

export class Dfa {
  private readonly alphabet: Alphabet;
  private readonly looks: boolean;
  private readonly states: State[] = [];
  private readonly numbers = new Map<string, number>();
  private table: Int32Array;
  /** Whether the end of the text after a state is a match: 0 not known, 1 no, 2 yes. */
  private ends: Uint8Array;
  private readonly maxStates: number;
  private readonly marks: Uint32Array;
  private mark = 0;

  constructor(private readonly program: Program) {
    this.alphabet = new Alphabet(program);
    this.looks = program.ops.some((op, i) => op === Op.Assert && program.x[i] !== Look.Character);
    this.maxStates = Math.max(16, Math.floor(TABLE_LIMIT / this.alphabet.size));
    this.table = new Int32Array(64 * this.alphabet.size).fill(UNKNOWN);
    this.ends = new Uint8Array(64);
    this.marks = new Uint32Array(program.ops.length);
    this.begin();
  }

  private begin(): number {
    return this.number([this.program.start], this.looks ? NO_LETTER : 0);
  }

  private number(instructions: readonly number[], before: number): number {
    const key = `${before}:${instructions.join(',')}`;
    let number = this.numbers.get(key);
    if (number !== undefined) return number;
    if (this.states.length >= this.maxStates) {
      this.states.length = 0;
      this.numbers.clear();
      this.table.fill(UNKNOWN);
      this.ends.fill(0);
      this.begin();
    }
    number = this.states.length;
    this.states.push({ instructions, before });
    this.numbers.set(key, number);
    if (this.states.length * this.alphabet.size > this.table.length) {
      const larger = new Int32Array(this.table.length * 2).fill(UNKNOWN);
      larger.set(this.table);
      this.table = larger;
    }
    if (this.states.length > this.ends.length) {
      const larger = new Uint8Array(this.ends.length * 2);
      larger.set(this.ends);
      this.ends = larger;
    }
    return number;
  }

  /**
   * Reading instructions reachable without reading, by what comes next.
   * @returns undefined if the end of the program is reachable
   */
  private closure({ instructions, before }: State, after: number): number[] | undefined {
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
          if (holds(x[at], before, after, true)) stack.push(y[at]);
          break;
        case Op.Read:
        case Op.ReadFirst:
          reading.push(at);
          break;
        default:
      }
    }
    return reading;
  }

  private step(from: number, letter: number): number {
    const { ops, x, y, start } = this.program;
    const { bits, size } = this.alphabet;
    const after = this.looks ? bits[letter] : 0;
    const reading = this.closure(this.states[from], after);
    let to = MATCHED;
    if (reading) {
      const next = new Set([start]);
      for (const at of reading) if (ops[at] === Op.ReadFirst || this.alphabet.has(x[at], letter)) next.add(y[at]);
      const count = this.states.length;
      to = this.number([...next].sort((a, b) => a - b), after); // prettier-ignore
      // After a new beginning the state come from has gone, and so has its row.
      if (this.states.length < count) return to;
    }
    this.table[from * size + letter] = to;
    return to;
  }

  /** Whether the program matches somewhere in `text` from `from` up to `to`, taken as a text of its own. */
  test(text: string, from = 0, to = text.length): boolean {
    const { first, size } = this.alphabet;
    let { table } = this;
    let state = 0;
    for (let i = from; i < to; i++) {
      const unit = text.charCodeAt(i);
      let letter: number;
      if (unit < 256) letter = first[unit];
      else {
        const codePoint = (unit & 0xfc00) === 0xd800 && i + 1 < to ? text.codePointAt(i)! : unit;
        if (codePoint > 0xffff) i++;
        letter = this.alphabet.letter(codePoint);
      }
      let next = table[state * size + letter];
      if (next < 0) {
        if (next === MATCHED) return true;
        next = this.step(state, letter);
        if (next === MATCHED) return true;
        table = this.table;
      }
      state = next;
    }
    return this.matchesAtEnd(state);
  }

  /**
   * `test` of many texts in one string: the verdict `passed` for those that match.
   * @param starts where each starts; each ends one before the next
   * @param lies which are to be tested: those with one of the bits of `mask`
   */
  testEach(
    joined: string,
    starts: Uint32Array,
    lies: Uint8Array,
    mask: number,
    verdicts: Uint8Array,
    passed: number,
  ): void {
    const { first, size } = this.alphabet;
    let { table } = this;
    for (let number = 0; number < verdicts.length; number++) {
      if ((lies[number] & mask) === 0) continue;
      const to = starts[number + 1] - 1;
      let state = 0;
      let i = starts[number];
      for (; i < to; i++) {
        const unit = joined.charCodeAt(i);
        let letter: number;
        if (unit < 256) letter = first[unit];
        else {
          const codePoint = (unit & 0xfc00) === 0xd800 && i + 1 < to ? joined.codePointAt(i)! : unit;
          if (codePoint > 0xffff) i++;
          letter = this.alphabet.letter(codePoint);
        }
        let next = table[state * size + letter];
        if (next < 0) {
          if (next !== MATCHED) {
            next = this.step(state, letter);
            table = this.table;
          }
          if (next === MATCHED) break;
        }
        state = next;
      }
      if (i < to || this.matchesAtEnd(state)) verdicts[number] = passed;
    }
  }

  private matchesAtEnd(state: number): boolean {
    if (this.ends[state] === 0) this.ends[state] = this.closure(this.states[state], NO_LETTER) ? 1 : 2;
    return this.ends[state] === 2;
  }
}
