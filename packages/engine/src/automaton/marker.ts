/**
 * Where does a program match? All hits of a text, leftmost first, each the one an ECMAScript matcher would prefer, in time
 * linear in the text for a given program.
 *
 * The text is read backwards first: for each place, the set of instructions from which the end of the program can be
 * reached. With that known, walking forwards needs no second guess: at a branch the first way that can succeed is the one
 * that backtracking would have ended on. A long text is done in blocks, so that the sets of one block only are held.
 *
 * Source: A. Frisch, L. Cardelli, "Greedy Regular Expression Matching", ICALP 2004.
 */
import type { Span } from '../text/index.js';
import { Alphabet, holds, NO_LETTER } from './alphabet.js';
import { Op, type Program } from './program.js';

/** Words of memory that the sets of one block may take. */
const BLOCK_WORDS = 1 << 20;

export class Marker {
  private readonly alphabet: Alphabet;
  private readonly words: number;
  /** For each instruction, the branches and assertions that lead to it without reading. */
  private readonly before: number[][];
  private readonly readers: number[];
  private readonly match: number;
  /** Memory for the sets, kept from text to text. */
  private room = new Uint32Array(0);

  constructor(private readonly program: Program) {
    const { ops, x, y } = program;
    this.alphabet = new Alphabet(program);
    this.words = (ops.length + 31) >>> 5;
    this.before = ops.map(() => []);
    this.readers = [];
    this.match = ops.indexOf(Op.Match);
    ops.forEach((op, at) => {
      if (op === Op.Split) {
        this.before[x[at]].push(at);
        if (y[at] !== x[at]) this.before[y[at]].push(at);
      } else if (op === Op.Assert) this.before[y[at]].push(at);
      else if (op === Op.Read || op === Op.ReadFirst || op === Op.ReadInside) this.readers.push(at);
    });
  }

  /**
   * All hits, empty ones too, in order and not overlapping.
   * @param starts one byte a UTF-16 unit, 1 where a shown character begins; without it every code point is one
   */
  findAll(text: string, starts?: Uint8Array): Span[] {
    const codePoints: number[] = [];
    const offsets: number[] = [];
    for (let i = 0; i < text.length;) {
      const codePoint = text.codePointAt(i)!;
      codePoints.push(codePoint);
      offsets.push(i);
      i += codePoint > 0xffff ? 2 : 1;
    }
    offsets.push(text.length);
    const letters = Uint16Array.from(codePoints, (codePoint) => this.alphabet.letter(codePoint));
    const isStart = (i: number): boolean => !starts || i >= letters.length || starts[offsets[i]] === 1;
    return this.walk(letters, isStart).map(({ start, end }) => ({ start: offsets[start], end: offsets[end] }));
  }

  private walk(letters: Uint16Array, isStart: (i: number) => boolean): Span[] {
    const { ops, x, y, start } = this.program;
    const { words } = this;
    const size = letters.length;
    const block = Math.max(64, Math.floor(BLOCK_WORDS / words));
    const blocks = Math.floor(size / block) + 1;
    // The set at the start of each block but the first, found by one pass backwards.
    const kept: Uint32Array[] = [];
    const needed = (Math.min(block, size) + 1) * words;
    if (this.room.length < needed) this.room = new Uint32Array(needed);
    const sets = this.room.subarray(0, needed);
    let loaded = -1;
    const load = (number: number): void => {
      const from = number * block;
      const to = Math.min(size, from + block);
      this.fill(sets, from, to, letters, isStart, kept[number + 1]);
      loaded = number;
    };
    for (let number = blocks - 1; number > 0; number--) {
      load(number);
      kept[number] = sets.slice(0, words);
    }
    const can = (instruction: number, i: number): boolean => {
      const number = Math.floor(i / block);
      if (number !== loaded) load(number);
      return ((sets[(i - number * block) * words + (instruction >>> 5)] >>> (instruction & 31)) & 1) !== 0;
    };
    const spans: Span[] = [];
    for (let i = 0; i <= size;) {
      if (!can(start, i)) {
        i++;
        continue;
      }
      let at = start;
      let end = i;
      while (ops[at] !== Op.Match) {
        if (ops[at] === Op.Split) at = can(x[at], end) ? x[at] : y[at];
        else {
          if (ops[at] !== Op.Assert) end++;
          at = y[at];
        }
      }
      spans.push({ start: i, end });
      i = end > i ? end : i + 1;
    }
    return spans;
  }

  /**
   * Sets of the places `from` … `to`.
   * @param after the set at `to`, if that is known; else `to` is the end of the text
   */
  private fill(
    sets: Uint32Array,
    from: number,
    to: number,
    letters: Uint16Array,
    isStart: (i: number) => boolean,
    after: Uint32Array | undefined,
  ): void {
    const { ops, x, y } = this.program;
    const { words, before, readers, alphabet } = this;
    const bitsAt = (i: number): number => (i < 0 || i >= letters.length ? NO_LETTER : alphabet.bits[letters[i]]);
    sets.fill(0);
    if (after) sets.set(after, (to - from) * words);
    const stack: number[] = [];
    for (let i = after ? to - 1 : to; i >= from; i--) {
      const here = (i - from) * words;
      const next = here + words;
      const put = (instruction: number): void => {
        const word = here + (instruction >>> 5);
        const bit = 1 << (instruction & 31);
        if ((sets[word] & bit) !== 0) return;
        sets[word] |= bit;
        stack.push(instruction);
      };
      put(this.match);
      if (i < letters.length) {
        const letter = letters[i];
        const begins = isStart(i);
        for (const reader of readers) {
          const target = y[reader];
          if (((sets[next + (target >>> 5)] >>> (target & 31)) & 1) === 0) continue;
          const op = ops[reader];
          if (op === Op.Read ? alphabet.has(x[reader], letter) : begins === (op === Op.ReadFirst)) put(reader);
        }
      }
      const [left, right] = [bitsAt(i - 1), bitsAt(i)];
      while (stack.length > 0) {
        for (const instruction of before[stack.pop()!]) {
          if (ops[instruction] === Op.Split || holds(x[instruction], left, right, isStart(i))) put(instruction);
        }
      }
    }
  }
}
