/** The distinct words of a vocabulary, sorted, with the tokens that hold each: what near spelling looks through. */
import { words } from '../text/index.js';
import { letterBits } from '../automaton/index.js';
import { TextPool } from './text-pool.js';

const ONE_WORD = /^[0-9a-z]+$/;

export class WordList {
  private constructor(
    readonly pool: TextPool,
    /** How many UTF-16 units each word has in common with the one before it. */
    readonly common: Uint16Array,
    private readonly tokenStarts: Uint32Array,
    private readonly tokens: Uint32Array,
  ) {
    this.bits = Uint32Array.from({ length: pool.size }, (_, word) => letterBits(pool.at(word)));
  }

  /** Which letters each word has. */
  readonly bits: Uint32Array;

  static of(tokens: TextPool): WordList {
    const holders = new Map<string, number[]>();
    const add = (word: string, token: number): void => {
      const list = holders.get(word);
      if (!list) holders.set(word, [token]);
      else if (list[list.length - 1] !== token) list.push(token);
    };
    for (let token = 0; token < tokens.size; token++) {
      const text = tokens.at(token);
      if (ONE_WORD.test(text)) add(text, token);
      else for (const { start, end } of words(text)) add(text.slice(start, end), token);
    }
    const sorted = [...holders.keys()].sort();
    const common = new Uint16Array(sorted.length);
    const tokenStarts = new Uint32Array(sorted.length + 1);
    const held: number[] = [];
    sorted.forEach((word, i) => {
      const before = i === 0 ? '' : sorted[i - 1];
      const most = Math.min(before.length, word.length, 0xffff);
      let same = 0;
      while (same < most && before.charCodeAt(same) === word.charCodeAt(same)) same++;
      common[i] = same;
      tokenStarts[i] = held.length;
      for (const token of holders.get(word)!) held.push(token);
    });
    tokenStarts[sorted.length] = held.length;
    return new WordList(TextPool.of(sorted), common, tokenStarts, Uint32Array.from(held));
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
      this.common.byteLength +
      this.bits.byteLength +
      this.tokenStarts.byteLength +
      this.tokens.byteLength
    );
  }
}
