/**
 * Where does a program match? All hits of a text, leftmost first, each the one an ECMAScript matcher would prefer, in time
 * linear in the text for a given program, and in steps.
 *
 * The text is read backwards first: for each place, the set of instructions from which the end of the program can be
 * reached. With that known, walking forwards needs no second guess: at a branch the first way that can succeed is the one
 * that backtracking would have ended on. A long text is done in blocks, so that the sets of one block only are held.
 *
 * The set of a place follows from the set after it and the letters on either side. Of a small program each such step is
 * worked out once; of a large one it is worked out anew, since its sets hardly come twice: then they are of its readers, by words
 * of bits, whatever its counts (`positions.ts`).
 *
 * Source: A. Frisch, L. Cardelli, "Greedy Regular Expression Matching", ICALP 2004.
 */
import type { Span } from '../text/index.js';
import { Alphabet, holds, NO_LETTER } from './alphabet.js';
import { finished, type Steps } from '../steps.js';
import { type Follow, leadsTo, Positions, stepBack } from './positions.js';
import { Op, type Program } from './program.js';

/** Words of memory that the sets of one block may take, and those that are remembered. */
const BLOCK_WORDS = 1 << 20;
const REMEMBERED_WORDS = 1 << 20;
/** Words of a set above which steps are not remembered. */
const LARGE = 8;
/** Words of sets that are worked out, or looked at, in one step. */
const A_STEP = 1 << 15;

/** A set of instructions from which the end of the program can be reached, and the sets that came before it. */
interface Reach {
  readonly set: Uint32Array;
  /** The sets before this one, by the letter before, whether a shown character begins with it, and the bits of the letter before that. */
  readonly before: (Reach | undefined)[];
}

/** Ways in which what stands around a place may differ, for one letter. */
const SURROUNDINGS = 16;

export class Marker {
  private readonly alphabet: Alphabet;
  private readonly words: number;
  /** The branches and assertions that lead to each instruction without reading. */
  private readonly before: number[][];
  /** Instructions that something leads to without reading. */
  private readonly entered: Uint32Array;
  /** Readers that go on at the instruction after them, as bits; and the others. */
  private readonly simple: Uint32Array;
  private readonly readers: number[];
  /** The readers that take a letter, by the letter and whether a shown character begins with it. */
  private readonly takes: (Uint32Array | undefined)[] = [];
  private readonly match: number;
  private readonly known = new Map<string, Reach>();
  /** The set after the end of a text. */
  private readonly nothing: Reach = { set: new Uint32Array(0), before: [] };
  /** The positions of a large program; a small one does without. */
  private readonly positions: Positions | undefined;
  private readonly room: Uint32Array;

  constructor(private readonly program: Program) {
    const { ops, x, y } = program;
    this.alphabet = new Alphabet(program);
    this.positions = ops.length > LARGE * 32 ? Positions.of(program) : undefined;
    this.words = this.positions?.words ?? (ops.length + 31) >>> 5;
    this.room = new Uint32Array(2 * this.words);
    this.before = ops.map(() => []);
    this.readers = [];
    this.simple = new Uint32Array((ops.length + 31) >>> 5);
    this.entered = new Uint32Array((ops.length + 31) >>> 5);
    this.match = ops.indexOf(Op.Match);
    ops.forEach((op, at) => {
      if (op === Op.Split) {
        this.before[x[at]].push(at);
        if (y[at] !== x[at]) this.before[y[at]].push(at);
      } else if (op === Op.Assert) this.before[y[at]].push(at);
      else if (op === Op.Read || op === Op.ReadFirst || op === Op.ReadInside) {
        if (y[at] === at + 1) this.simple[at >>> 5] |= 1 << (at & 31);
        else this.readers.push(at);
      }
    });
    this.before.forEach((leading, at) => {
      if (leading.length > 0) this.entered[at >>> 5] |= 1 << (at & 31);
    });
  }

  /**
   * All hits, empty ones too, in order and not overlapping.
   * @param starts one byte a UTF-16 unit, 1 where a shown character begins; without it every code point is one
   */
  findAll(text: string, starts?: Uint8Array): Span[] {
    return finished(this.findSteps(text, starts));
  }

  /** Does what `findAll` does, so many words of sets at a time. */
  *findSteps(text: string, starts?: Uint8Array): Steps<Span[]> {
    const letters = new Uint16Array(text.length);
    const offsets = new Uint32Array(text.length + 1);
    let count = 0;
    for (let i = 0; i < text.length; count++) {
      const codePoint = text.codePointAt(i)!;
      letters[count] = this.alphabet.letter(codePoint);
      offsets[count] = i;
      i += codePoint > 0xffff ? 2 : 1;
    }
    offsets[count] = text.length;
    const isStart = (i: number): boolean => !starts || i >= count || starts[offsets[i]] === 1;
    const spans = yield* this.walk(letters.subarray(0, count), isStart);
    return spans.map(({ start, end }) => ({ start: offsets[start], end: offsets[end] }));
  }

  private *walk(letters: Uint16Array, isStart: (i: number) => boolean): Steps<Span[]> {
    const { ops, x, y, start } = this.program;
    const { words } = this;
    const size = letters.length;
    const block = Math.max(64, Math.floor(BLOCK_WORDS / words));
    const blocks = Math.floor(size / block) + 1;
    // The set at the start of each block but the first, found by one pass backwards.
    const kept: Reach[] = [];
    const sets: Reach[] = [];
    const room = this.positions ? new Uint32Array((Math.min(block, size) + 1) * words) : undefined;
    let loaded = -1;
    const blockOf = (i: number): number => Math.floor(i / block);
    const isLoaded = (i: number): boolean => blockOf(i) === loaded;
    const fill = (number: number): Steps<void> => {
      const from = number * block;
      loaded = number;
      return this.fill(sets, from, Math.min(size, from + block), letters, isStart, kept[number + 1], room);
    };
    for (let number = blocks - 1; number > 0; number--) {
      yield* fill(number);
      kept[number] = room ? { set: room.slice(0, words), before: [] } : sets[0];
    }
    /** Tells whether an instruction can reach the end from a place within the block that is loaded. */
    const can = (instruction: number, i: number): boolean => {
      const place = i - loaded * block;
      if (room) return leadsTo(this.followAt(letters, isStart, i), instruction, room, place * words, words);
      const word = sets[place].set[instruction >>> 5];
      return ((word >>> (instruction & 31)) & 1) !== 0;
    };
    const spans: Span[] = [];
    let wordsLeft = A_STEP;
    for (let i = 0; i <= size;) {
      if ((wordsLeft -= words) < 0) {
        wordsLeft = A_STEP;
        yield;
      }
      if (!isLoaded(i)) yield* fill(blockOf(i));
      if (room && !this.knownAt(letters, isStart, i)) yield* this.followSteps(letters, isStart, i);
      if (!can(start, i)) {
        i++;
        continue;
      }
      let at = start;
      let end = i;
      while (ops[at] !== Op.Match) {
        if ((wordsLeft -= words) < 0) {
          wordsLeft = A_STEP;
          yield;
        }
        if (ops[at] === Op.Split) at = can(x[at], end) ? x[at] : y[at];
        else {
          if (ops[at] !== Op.Assert) end++;
          at = y[at];
          if (!isLoaded(end)) yield* fill(blockOf(end));
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
   * @param room where the sets of a large program are put, one after the other
   */
  private *fill(
    sets: Reach[],
    from: number,
    to: number,
    letters: Uint16Array,
    isStart: (i: number) => boolean,
    after: Reach | undefined,
    room: Uint32Array | undefined,
  ): Steps<void> {
    const { words } = this;
    const { bits, size } = this.alphabet;
    let wordsLeft = A_STEP;
    let reach = after ?? this.nothing;
    if (after && room) room.set(after.set, (to - from) * words);
    else if (after) sets[to - from] = after;
    for (let i = after ? to - 1 : to; i >= from; i--) {
      if ((wordsLeft -= words) < 0) {
        wordsLeft = A_STEP;
        yield;
      }
      const letter = i < letters.length ? letters[i] : size;
      const left = i === 0 ? NO_LETTER : bits[letters[i - 1]];
      const begins = isStart(i);
      if (room) {
        if (i < letters.length && !this.knownAt(letters, isStart, i + 1))
          yield* this.followSteps(letters, isStart, i + 1);
        const at = (i - from) * words;
        this.stepLarge(room.subarray(at, at + words), room.subarray(at + words, at + 2 * words), letters, isStart, i);
        continue;
      }
      const around = letter * SURROUNDINGS + (begins ? 8 : 0) + left;
      sets[i - from] = reach = reach.before[around] ??= this.stepRemembered(reach, letter, begins, left);
    }
  }

  /** The bits of a letter of the text; NO_LETTER before it and after it. */
  private bitsAt(letters: Uint16Array, i: number): number {
    return i >= 0 && i < letters.length ? this.alphabet.bits[letters[i]] : NO_LETTER;
  }

  /** Gives what may follow at a place; undefined where that was not worked out before. */
  private knownAt(letters: Uint16Array, isStart: (i: number) => boolean, i: number): Follow | undefined {
    return this.positions!.known(this.bitsAt(letters, i - 1), this.bitsAt(letters, i), isStart(i));
  }

  /** Works out what may follow at a place. */
  private *followSteps(letters: Uint16Array, isStart: (i: number) => boolean, i: number): Steps<Follow> {
    return yield* this.positions!.followSteps(this.bitsAt(letters, i - 1), this.bitsAt(letters, i), isStart(i));
  }

  private followAt(letters: Uint16Array, isStart: (i: number) => boolean, i: number): Follow {
    return this.knownAt(letters, isStart, i) ?? finished(this.followSteps(letters, isStart, i));
  }

  /** The readers that can take the letter at a place and lead to the end from there. @param set written to @param after of the next place */
  private stepLarge(
    set: Uint32Array,
    after: Uint32Array,
    letters: Uint16Array,
    isStart: (i: number) => boolean,
    i: number,
  ): void {
    set.fill(0);
    if (i >= letters.length) return;
    const { room, words } = this;
    const next = room.subarray(0, words);
    stepBack(this.followAt(letters, isStart, i + 1), after, next, room.subarray(words));
    const takers = this.positions!.takers(this.alphabet, letters[i], isStart(i));
    for (let word = 0; word < words; word++) set[word] = next[word] & takers[word];
  }

  private stepRemembered(after: Reach, letter: number, begins: boolean, left: number): Reach {
    return this.remembered(this.step(after.set, letter, begins, left), after);
  }

  private takers(letter: number, begins: boolean): Uint32Array {
    const entry = letter * 2 + (begins ? 1 : 0);
    let takers = this.takes[entry];
    if (!takers) {
      const { ops, x } = this.program;
      takers = this.takes[entry] = new Uint32Array(this.words);
      for (let at = 0; at < ops.length; at++) {
        const takes =
          ops[at] === Op.Read
            ? this.alphabet.has(x[at], letter)
            : begins
              ? ops[at] === Op.ReadFirst
              : ops[at] === Op.ReadInside;
        if (takes) takers[at >>> 5] |= 1 << (at & 31);
      }
    }
    return takers;
  }

  /**
   * The set of what can reach the end of a small program before a letter, or at the end of the text.
   * @param after the set after the letter
   * @param letter the alphabet's size for the end
   */
  private step(after: Uint32Array, letter: number, begins: boolean, left: number): Uint32Array {
    const set = new Uint32Array(this.words);
    const { x, y, ops } = this.program;
    const { before, readers, alphabet, simple, entered, words } = this;
    const right = letter === alphabet.size ? NO_LETTER : alphabet.bits[letter];
    if (letter < alphabet.size) {
      const takers = this.takers(letter, begins);
      let word = after[0];
      for (let i = 0; i < words; i++) {
        const next = i + 1 < words ? after[i + 1] : 0;
        set[i] = ((word >>> 1) | (next << 31)) & simple[i] & takers[i];
        word = next;
      }
      for (const reader of readers) {
        const target = y[reader];
        const reached = after[target >>> 5] >>> (target & 31);
        if ((reached & (takers[reader >>> 5] >>> (reader & 31)) & 1) !== 0) set[reader >>> 5] |= 1 << (reader & 31);
      }
    }
    set[this.match >>> 5] |= 1 << (this.match & 31);
    let stack: number[] | undefined;
    for (let word = 0; word < words; word++)
      for (let on = set[word] & entered[word]; on !== 0; on &= on - 1)
        (stack ??= []).push((word << 5) + 31 - Math.clz32(on & -on));
    while (stack && stack.length > 0) {
      for (const instruction of before[stack.pop()!]) {
        const word = instruction >>> 5;
        if (((set[word] >>> (instruction & 31)) & 1) !== 0) continue;
        if (ops[instruction] !== Op.Split && !holds(x[instruction], left, right, begins)) continue;
        set[word] |= 1 << (instruction & 31);
        stack.push(instruction);
      }
    }
    return set;
  }

  /** Gives the one object that stands for a set. When there are too many, all is forgotten but what is in hand. */
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
