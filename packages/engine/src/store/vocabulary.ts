/**
 * The vocabulary of one column of one segment: every distinct space-free token of its folded cells, with the rows it
 * occurs in. A keyword without a space can only lie inside a token, so a search looks through the tokens, of which
 * there are few, and never through the rows.
 *
 * Three things make a token look-up cheap, whatever is typed:
 * - one to three letters can hit so many tokens that merging their rows costs too much: the rows of each frequent short
 *   gram are kept as a ready set;
 * - for two letters and more, an index from hashed grams to tokens gives the candidates;
 * - a small vocabulary is simply scanned.
 *
 * Source: J. Zobel, A. Moffat, "Inverted files for text search engines", ACM Computing Surveys 38(2), 2006 (n-gram
 * look-up of a vocabulary for partial terms); ready sets are our own measure.
 */
import { addMembers, emptyBits, type Bits } from './bits.js';
import { fold, TextMap } from '../text/index.js';
import type { Chunks } from './chunks.js';
import type { PackReader, PackWriter } from './pack.js';
import { indexGrams, tokensOfRarest, type GramIndex } from './gram-index.js';
import { firstAtLeast } from './rising.js';
import { ReadyRows } from './ready-rows.js';
import { anyOf, FEW, type FewRows, type RowSet } from './row-set.js';
import { FACE_BREAK_CHUNK } from './shared-chunks.js';
import { SignedTokens } from './signed-tokens.js';
import { finished, StepMeter, type Steps } from '../steps.js';
import { TextPool } from './text-pool.js';
import { WordList } from './word-list.js';

/** A vocabulary whose joined text is shorter than this is scanned: faster than any look-up. */
const SCANNED_LENGTH = 6_000;
/** Chunks, or rows of tokens, that are looked at in one step. */
const A_STEP = 1 << 16;

export class Vocabulary {
  private grams: GramIndex | undefined;
  private readonly ready = new Map<string, Bits>();
  /** Tokens of each letter that is in few of them. */
  private readonly letters = new Map<string, Uint32Array>();
  private builtWords: WordList | undefined;
  private builtSigned: SignedTokens | undefined;
  private lastNeedle = '';
  private lastTokens: number[] = [];

  private constructor(
    /** Distinct tokens, sorted by UTF-16 units. */
    readonly tokens: TextPool,
    private readonly postingStarts: Uint32Array,
    /** Rows of each token, rising; a segment has at most 65,536 rows. */
    private readonly postings: Uint16Array,
    readonly rowCount: number,
  ) {}

  /**
   * @param chunks of the distinct values: what a value's chunks fold to, each by itself, are its tokens
   * @param codes value number of each row
   */
  static of(chunks: Chunks, codes: Uint16Array, rowCount: number): Vocabulary {
    return finished(Vocabulary.steps(chunks, codes, rowCount));
  }

  /** Does what `of` does, some values at a time. */
  static *steps(chunks: Chunks, codes: Uint16Array, rowCount: number): Steps<Vocabulary> {
    const numbers = new TextMap<number>();
    const meter = new StepMeter(A_STEP);
    const { starts, sequence } = chunks;
    const size = starts.length - 1;
    const tokensOf: number[][] = [];
    const readTokens = (chunk: number): number[] =>
      fold(chunks.at(chunk))
        .split(' ')
        .filter((token) => token !== '')
        .map((token) => {
          const known = numbers.get(token);
          if (known === undefined) numbers.set(token, numbers.size);
          return known ?? numbers.size - 1;
        });
    const valueStarts = new Uint32Array(size + 1);
    const valueTokens: number[] = [];
    const lastValue: number[] = [];
    for (let value = 0; value < size; value++) {
      if (meter.fills(starts[value + 1] - starts[value] + 1)) yield;
      valueStarts[value] = valueTokens.length;
      for (let i = starts[value]; i < starts[value + 1]; i++) {
        const chunk = sequence[i];
        if (chunk === FACE_BREAK_CHUNK) continue;
        for (const token of (tokensOf[chunk] ??= readTokens(chunk))) {
          if (lastValue[token] === value) continue;
          lastValue[token] = value;
          valueTokens.push(token);
        }
      }
    }
    valueStarts[size] = valueTokens.length;
    yield;

    const sorted = [...numbers.keys()].sort();
    yield;
    const rank = new Uint32Array(sorted.length);
    for (let i = 0; i < sorted.length; i++) rank[numbers.get(sorted[i])!] = i;

    yield;
    const postingStarts = new Uint32Array(sorted.length + 1);
    for (let row = 0; row < rowCount; row++) {
      const code = codes[row];
      if (meter.fills(valueStarts[code + 1] - valueStarts[code] + 1)) yield;
      for (let i = valueStarts[code]; i < valueStarts[code + 1]; i++) postingStarts[rank[valueTokens[i]] + 1]++;
    }
    for (let i = 0; i < sorted.length; i++) postingStarts[i + 1] += postingStarts[i];
    yield;
    const next = postingStarts.slice();
    const postings = new Uint16Array(postingStarts[sorted.length]);
    for (let row = 0; row < rowCount; row++) {
      const code = codes[row];
      if (meter.fills(valueStarts[code + 1] - valueStarts[code] + 1)) yield;
      for (let i = valueStarts[code]; i < valueStarts[code + 1]; i++) postings[next[rank[valueTokens[i]]]++] = row;
    }
    yield;
    const tokens = TextPool.of(sorted);
    yield;
    const made = new Vocabulary(tokens, postingStarts, postings, rowCount);
    if (tokens.joined.length > SCANNED_LENGTH) made.grams = yield* indexGrams(tokens);
    yield;
    yield* new ReadyRows(made, made.grams, made.ready, made.letters).gather();
    yield;
    made.builtWords = yield* WordList.steps(tokens);
    return made;
  }

  /** Packs the vocabulary with all that can be built of it. */
  pack(to: PackWriter): void {
    this.tokens.pack(to);
    to.numbers(this.postingStarts);
    to.numbers(this.postings);
    to.count(this.rowCount);
    to.count(this.grams ? 1 : 0);
    if (this.grams) {
      to.numbers(this.grams.starts);
      to.numbers(this.grams.tokens);
    }
    for (const lists of [this.ready, this.letters]) {
      to.count(lists.size);
      TextPool.of([...lists.keys()]).pack(to);
      for (const list of lists.values()) to.numbers(list);
    }
    this.words.pack(to);
    this.signed.pack(to);
  }

  static unpacked(from: PackReader): Vocabulary {
    const made = new Vocabulary(TextPool.unpacked(from), from.u32(), from.u16(), from.count());
    if (from.count() === 1) made.grams = { starts: from.u32(), tokens: from.u32() };
    for (const lists of [made.ready, made.letters] as Map<string, Uint32Array>[]) {
      const count = from.count();
      const names = TextPool.unpacked(from);
      for (let i = 0; i < count; i++) lists.set(names.at(i), from.u32());
    }
    made.builtWords = WordList.unpacked(from);
    made.builtSigned = SignedTokens.unpacked(from);
    return made;
  }

  /** The distinct words within the tokens. */
  get words(): WordList {
    return (this.builtWords ??= WordList.of(this.tokens));
  }

  /** The tokens that have signs between their letters. */
  get signed(): SignedTokens {
    return (this.builtSigned ??= SignedTokens.of(this.tokens));
  }

  /** Tells how many rows hold the token. */
  rowsOfToken(token: number): number {
    return this.postingStarts[token + 1] - this.postingStarts[token];
  }

  /** Adds the rows of a token to a set. */
  addRows(token: number, target: Bits): void {
    const { postings } = this;
    const end = this.postingStarts[token + 1];
    for (let i = this.postingStarts[token]; i < end; i++) {
      const row = postings[i];
      target[row >>> 5] |= 1 << (row & 31);
    }
  }

  /**
   * Rows with a token that contains `needle`.
   * @param needle folded, not empty, without a space
   * @returns undefined if there are none; the set is the vocabulary's own, not to be written to
   */
  rowsContaining(needle: string): RowSet | undefined {
    if (needle.length <= 3) {
      const ready = this.ready.get(needle);
      if (ready) return ready;
    }
    const tokens = this.tokensContaining(needle);
    if (tokens.length === 0) return undefined;
    const few = this.fewRows(tokens);
    if (few) return few;
    const rows = emptyBits(this.rowCount);
    this.addAllRows(tokens, rows);
    return rows;
  }

  /** Rows of some tokens as a list; undefined if they are not few. */
  private fewRows(tokens: ArrayLike<number>): FewRows | undefined {
    if (tokens.length > FEW) return undefined;
    let count = 0;
    for (let i = 0; i < tokens.length; i++) count += this.rowsOfToken(tokens[i]);
    if (count > FEW) return undefined;
    const lists: FewRows[] = [];
    for (let i = 0; i < tokens.length; i++)
      lists.push(this.postings.subarray(this.postingStarts[tokens[i]], this.postingStarts[tokens[i] + 1]));
    return anyOf(lists, this.rowCount) as FewRows;
  }

  /** Adds the rows of rising tokens to a set. Those of a run of tokens lie in a row. */
  addAllRows(tokens: ArrayLike<number>, target: Bits): void {
    const { postings, postingStarts } = this;
    for (let i = 0; i < tokens.length;) {
      const first = tokens[i];
      let last = first;
      while (++i < tokens.length && tokens[i] === last + 1) last++;
      const end = postingStarts[last + 1];
      addMembers(postings, postingStarts[first], end, target);
    }
  }

  /** Numbers of the tokens that contain `needle`, rising. Text that only grew since the last call narrows that answer. */
  tokensContaining(needle: string): ArrayLike<number> {
    if (needle.length === 1) return this.tokensWithLetter(needle);
    if (this.lastNeedle !== '' && needle.includes(this.lastNeedle)) {
      if (needle !== this.lastNeedle) {
        this.lastTokens = this.narrowed(needle, Uint32Array.from(this.lastTokens));
        this.lastNeedle = needle;
      }
      return this.lastTokens;
    }
    const found = this.grams
      ? this.narrowed(needle, tokensOfRarest(this.grams, needle))
      : this.tokens.containing(needle);
    if (needle.length >= 3) {
      this.lastNeedle = needle;
      this.lastTokens = found;
    }
    return found;
  }

  private tokensWithLetter(letter: string): ArrayLike<number> {
    return this.ready.has(letter) ? this.tokens.containing(letter) : (this.letters.get(letter) ?? []);
  }

  /** Finds those of the tokens `candidates` that contain `needle`. The ones that begin with it lie together, and are not read. */
  private narrowed(needle: string, candidates: Uint32Array): number[] {
    const from = this.tokens.lowerBound(needle);
    const to = this.tokens.endOfBeginning(needle, from);
    if (to - from < 16) return this.tokens.containing(needle, candidates);
    const before = candidates.subarray(0, firstAtLeast(candidates, from));
    const after = candidates.subarray(firstAtLeast(candidates, to));
    const found = this.tokens.containing(needle, before);
    for (let token = from; token < to; token++) found.push(token);
    for (const token of this.tokens.containing(needle, after)) found.push(token);
    return found;
  }

  get bytes(): number {
    let bytes = this.tokens.bytes + this.postingStarts.byteLength + this.postings.byteLength;
    if (this.grams) bytes += this.grams.starts.byteLength + this.grams.tokens.byteLength;
    bytes += (this.builtWords?.bytes ?? 0) + (this.builtSigned?.bytes ?? 0);
    for (const set of this.ready.values()) bytes += set.byteLength;
    for (const list of this.letters.values()) bytes += list.byteLength;
    return bytes;
  }
}
