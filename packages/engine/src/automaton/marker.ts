/**
 * Where does a program match? All hits of a text, leftmost first, each the one an ECMAScript matcher would prefer, in time
 * linear in the text for a given program.
 *
 * The text is read backwards first: for each place, the set of instructions from which the end of the program can be
 * reached. With that known, walking forwards needs no second guess: at a branch the first way that can succeed is the one
 * that backtracking would have ended on. A long text is done in blocks, so that the sets of one block only are held.
 *
 * The set of a place follows from the set after it and the letters on either side: each such step is worked out once.
 *
 * Source: A. Frisch, L. Cardelli, "Greedy Regular Expression Matching", ICALP 2004.
 */
import type { Span } from '../text/index.js';
import { Alphabet, holds, NO_LETTER } from './alphabet.js';
import { Op, type Program } from './program.js';

/** Words of memory that the sets of one block may take, and those that are remembered. */
const BLOCK_WORDS = 1 << 20;
const REMEMBERED_WORDS = 1 << 20;

/** A set of instructions from which the end of the program can be reached, and the sets that came before it. */
interface Reach {
  readonly set: Uint32Array;
  /** By the letter before, whether a shown character begins with it, and the bits of the one before that. */
  readonly before: (Reach | undefined)[];
}

/** Ways in which what stands around a place may differ, for one letter. */
const SURROUNDINGS = 16;

export class Marker {
  private readonly alphabet: Alphabet;
  private readonly words: number;
  /** For each instruction, the branches and assertions that lead to it without reading. */
  private readonly before: number[][];
  private readonly readers: number[];
  private readonly match: number;
  private readonly known = new Map<string, Reach>();
  /** After the end of a text. */
  private readonly nothing: Reach = { set: new Uint32Array(0), before: [] };

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
    const kept: Reach[] = [];
    const sets: Reach[] = [];
    let loaded = -1;
    const load = (number: number): void => {
      const from = number * block;
      this.fill(sets, from, Math.min(size, from + block), letters, isStart, kept[number + 1]);
      loaded = number;
    };
    for (let number = blocks - 1; number > 0; number--) {
      load(number);
      kept[number] = sets[0];
    }
    const can = (instruction: number, i: number): boolean => {
      const number = Math.floor(i / block);
      if (number !== loaded) load(number);
      return ((sets[i - number * block].set[instruction >>> 5] >>> (instruction & 31)) & 1) !== 0;
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
    sets: Reach[],
    from: number,
    to: number,
    letters: Uint16Array,
    isStart: (i: number) => boolean,
    after: Reach | undefined,
  ): void {
    const { bits, size } = this.alphabet;
    let reach = after ?? this.nothing;
    if (after) sets[to - from] = after;
    for (let i = after ? to - 1 : to; i >= from; i--) {
      const letter = i < letters.length ? letters[i] : size;
      const left = i === 0 ? NO_LETTER : bits[letters[i - 1]];
      const around = letter * SURROUNDINGS + (isStart(i) ? 8 : 0) + left;
      sets[i - from] = reach = reach.before[around] ??= this.step(reach, letter, isStart(i), left);
    }
  }

  /** The set before a letter, or at the end of the text. @param letter the alphabet's size for the end */
  private step(after: Reach, letter: number, begins: boolean, left: number): Reach {
    const { ops, x, y } = this.program;
    const { before, readers, alphabet } = this;
    const right = letter === alphabet.size ? NO_LETTER : alphabet.bits[letter];
    const set = new Uint32Array(this.words);
    const stack: number[] = [];
    const put = (instruction: number): void => {
      if (((set[instruction >>> 5] >>> (instruction & 31)) & 1) !== 0) return;
      set[instruction >>> 5] |= 1 << (instruction & 31);
      stack.push(instruction);
    };
    put(this.match);
    if (letter < alphabet.size) {
      for (const reader of readers) {
        const target = y[reader];
        if (((after.set[target >>> 5] >>> (target & 31)) & 1) === 0) continue;
        const op = ops[reader];
        if (op === Op.Read ? alphabet.has(x[reader], letter) : begins === (op === Op.ReadFirst)) put(reader);
      }
    }
    while (stack.length > 0) {
      for (const instruction of before[stack.pop()!]) {
        if (ops[instruction] === Op.Split || holds(x[instruction], left, right, begins)) put(instruction);
      }
    }
    return this.remembered(set, after);
  }

  /** One object a set. When there are too many, all is forgotten but what is in hand. */
  private remembered(set: Uint32Array, inHand: Reach): Reach {
    const key = set.join();
    let reach = this.known.get(key);
    if (reach) return reach;
    // A set's room, and that for the sets before it.
    if (this.known.size * (this.words + SURROUNDINGS * (this.alphabet.size + 1)) > REMEMBERED_WORDS) {
      for (const { before } of this.known.values()) before.length = 0;
      this.known.clear();
      this.nothing.before.length = 0;
      inHand.before.length = 0;
    }
    reach = { set, before: [] };
    this.known.set(key, reach);
    return reach;
  }
}
