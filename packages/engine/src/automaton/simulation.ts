/**
 * Does a program match anywhere in a text? By following all its threads at once, as bits of words: the way for programs whose
 * deterministic automaton would have too many states, as those of long counted repeats have. Time is linear in the text, at
 * some nanoseconds a word of bits and letter; memory is linear in the program.
 *
 * A bit stands for an instruction that has just read. Most instructions lead to the next one that reads, so most threads go
 * on by one shift; what else an instruction leads to is followed thread by thread. What may follow depends on the letters on
 * either side only through assertions, so there are few such tables, each made when first needed.
 *
 * Source: V. Glushkov, "The abstract theory of automata", 1961 (positions); R. Baeza-Yates, G. Gonnet, "A new approach to
 * text searching", CACM 35(10), 1992 (threads as bits).
 */
import { type Alphabet, holds, NO_LETTER } from './alphabet.js';
import { Op, type Program } from './program.js';

/** What may follow each reader, between two letters. */
interface Follow {
  /** Readers that the next one follows, and nothing else. */
  readonly simple: Uint32Array;
  /** Readers that something else follows. */
  readonly complex: Uint32Array;
  /** By reader, for the complex ones. */
  readonly targets: readonly (Uint32Array | undefined)[];
  /** Readers that come first. */
  readonly first: Uint32Array;
  /** Readers after which the program has matched. */
  readonly matching: Uint32Array;
  /** The program matches without reading. */
  readonly empty: boolean;
}

export class Simulation {
  private readonly words: number;
  private readonly readers: number[] = [];
  private readonly numbers: Int32Array;
  private readonly follows = new Map<number, Follow>();
  /** By letter, and again for letters inside a character: the readers that take it. */
  private readonly takes: (Uint32Array | undefined)[] = [];
  private threads: Uint32Array;
  private next: Uint32Array;

  constructor(
    private readonly program: Program,
    private readonly alphabet: Alphabet,
  ) {
    const { ops } = program;
    this.numbers = new Int32Array(ops.length).fill(-1);
    ops.forEach((op, at) => {
      if (op !== Op.Read && op !== Op.ReadFirst && op !== Op.ReadInside) return;
      this.numbers[at] = this.readers.length;
      this.readers.push(at);
    });
    this.words = (this.readers.length + 32) >>> 5;
    this.threads = new Uint32Array(this.words);
    this.next = new Uint32Array(this.words);
  }

  /** Readers reachable from an instruction without reading. @returns undefined if the end of the program is reachable, too */
  private closure(from: number, before: number, after: number, first: boolean): { reached: number[]; ends: boolean } {
    const { ops, x, y } = this.program;
    const seen = new Set<number>();
    const stack = [from];
    const reached: number[] = [];
    let ends = false;
    while (stack.length > 0) {
      const at = stack.pop()!;
      if (seen.has(at)) continue;
      seen.add(at);
      if (ops[at] === Op.Match) ends = true;
      else if (ops[at] === Op.Split) stack.push(x[at], y[at]);
      else if (ops[at] === Op.Assert) {
        if (holds(x[at], before, after, first)) stack.push(y[at]);
      } else if (this.numbers[at] >= 0) reached.push(this.numbers[at]);
    }
    return { reached, ends };
  }

  private follow(before: number, after: number, first: boolean): Follow {
    const key = before * 16 + after * 2 + (first ? 1 : 0);
    let follow = this.follows.get(key);
    if (follow) return follow;
    const bits = (): Uint32Array => new Uint32Array(this.words);
    const set = (target: Uint32Array, reader: number): void => {
      target[reader >>> 5] |= 1 << (reader & 31);
    };
    const [simple, complex, matching, start] = [bits(), bits(), bits(), bits()];
    const targets: (Uint32Array | undefined)[] = [];
    this.readers.forEach((at, reader) => {
      const { reached, ends } = this.closure(this.program.y[at], before, after, first);
      if (ends) set(matching, reader);
      if (reached.length === 1 && reached[0] === reader + 1) set(simple, reader);
      else if (reached.length > 0) {
        set(complex, reader);
        targets[reader] = Uint32Array.from(reached);
      }
    });
    const { reached, ends } = this.closure(this.program.start, before, after, first);
    for (const reader of reached) set(start, reader);
    follow = { simple, complex, targets, first: start, matching, empty: ends };
    this.follows.set(key, follow);
    return follow;
  }

  private takers(letter: number, first: boolean): Uint32Array {
    const entry = letter * 2 + (first ? 0 : 1);
    let takers = this.takes[entry];
    if (!takers) {
      const { ops, x } = this.program;
      takers = this.takes[entry] = new Uint32Array(this.words);
      this.readers.forEach((at, reader) => {
        const takes = ops[at] === Op.Read ? this.alphabet.has(x[at], letter) : first === (ops[at] === Op.ReadFirst);
        if (takes) takers![reader >>> 5] |= 1 << (reader & 31);
      });
    }
    return takers;
  }

  /** @param starts one byte a UTF-16 unit, 1 where a character of the shown text begins; without it every code point is one */
  test(text: string, starts?: Uint8Array): boolean {
    const { alphabet, words } = this;
    this.threads.fill(0);
    let before = NO_LETTER;
    for (let i = 0; i < text.length; i++) {
      const first = starts?.[i] !== 0;
      const codePoint = text.codePointAt(i)!;
      if (codePoint > 0xffff) i++;
      const letter = alphabet.letter(codePoint);
      const after = alphabet.bits[letter];
      const { simple, complex, targets, first: start, matching, empty } = this.follow(before, after, first);
      const takers = this.takers(letter, first);
      if (empty) return true;
      const { threads, next } = this;
      let carried = 0;
      for (let word = 0; word < words; word++) {
        const on = threads[word];
        if ((on & matching[word]) !== 0) return true;
        const going = on & simple[word];
        next[word] = (going << 1) | carried | start[word];
        carried = going >>> 31;
      }
      for (let word = 0; word < words; word++) {
        for (let on = threads[word] & complex[word]; on !== 0; on &= on - 1) {
          const to = targets[(word << 5) + 31 - Math.clz32(on & -on)]!;
          for (let t = 0; t < to.length; t++) next[to[t] >>> 5] |= 1 << (to[t] & 31);
        }
      }
      for (let word = 0; word < words; word++) next[word] &= takers[word];
      this.threads = next;
      this.next = threads;
      before = after;
    }
    const { matching, empty } = this.follow(before, NO_LETTER, true);
    return empty || this.threads.some((on, word) => (on & matching[word]) !== 0);
  }
}
