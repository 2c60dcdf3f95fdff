/** The distinct words of a vocabulary, sorted, with the tokens that hold each: what near spelling looks through. */
import { TextMap, words } from '../text/index.js';
import { BLOCK, letterBits } from '../automaton/index.js';
import { finished, StepMeter, type Steps } from '../steps.js';
import type { PackReader, PackWriter } from './pack.js';
import { TextPool } from './text-pool.js';

const ONE_WORD = /^[0-9a-z]+$/;

/** Letters of tokens that are looked at in one step. */
const A_STEP = 1 << 15;

export class WordList {
  private constructor(
    readonly pool: TextPool,
    private readonly tokenStarts: Uint32Array,
    private readonly tokens: Uint32Array,
    /** The letters that each word has. */
    readonly bits: Uint32Array,
  ) {
    this.blockBits = new Uint32Array(Math.ceil(pool.size / BLOCK));
    this.bits.forEach((bits, word) => (this.blockBits[Math.floor(word / BLOCK)] |= bits));
  }

  readonly blockBits: Uint32Array;

  static of(tokens: TextPool): WordList {
    return finished(WordList.steps(tokens));
  }

  /** Does what `of` does, some tokens at a time. */
  static *steps(tokens: TextPool): Steps<WordList> {
    const holders = new TextMap<number[]>();
    const meter = new StepMeter(A_STEP);
    const add = (word: string, token: number): void => {
      const list = holders.get(word);
      if (!list) holders.set(word, [token]);
      else if (list[list.length - 1] !== token) list.push(token);
    };
    for (let token = 0; token < tokens.size; token++) {
      const text = tokens.at(token);
      if (meter.fills(text.length)) yield;
      if (ONE_WORD.test(text)) add(text, token);
      else for (const { start, end } of words(text)) add(text.slice(start, end), token);
    }
    yield;
    const sorted = [...holders.keys()].sort();
    yield;
    const tokenStarts = new Uint32Array(sorted.length + 1);
    const held: number[] = [];
    sorted.forEach((word, i) => {
      tokenStarts[i] = held.length;
      for (const token of holders.get(word)!) held.push(token);
    });
    tokenStarts[sorted.length] = held.length;
    yield;
    const pool = TextPool.of(sorted);
    yield;
    const bits = Uint32Array.from({ length: pool.size }, (_, word) => letterBits(pool.at(word)));
    return new WordList(pool, tokenStarts, Uint32Array.from(held), bits);
  }

  pack(to: PackWriter): void {
    this.pool.pack(to);
    for (const numbers of [this.tokenStarts, this.tokens, this.bits]) to.numbers(numbers);
  }

  static unpacked(from: PackReader): WordList {
    return new WordList(TextPool.unpacked(from), from.u32(), from.u32(), from.u32());
  }

  get joined(): string {
    return this.pool.joined;
  }

  get starts(): Uint32Array {
    return this.pool.starts;
  }

  /** Tokens that hold a word, rising. */
  tokensOf(word: number): Uint32Array {
    return this.tokens.subarray(this.tokenStarts[word], this.tokenStarts[word + 1]);
  }

  get bytes(): number {
    return (
      this.pool.bytes +
      this.bits.byteLength +
      this.blockBits.byteLength +
      this.tokenStarts.byteLength +
      this.tokens.byteLength
    );
  }
}
