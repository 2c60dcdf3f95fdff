/**
 * The threads of a program through texts that are read in parts, each code point a character: as `simulation.ts`, with less to do
 * a letter. What may follow depends only on where the text begins and ends, so it is worked out once; readers that look for what
 * is inside a character are left out; and where two words hold all readers, as of most patterns that people write, they are
 * followed without any loop over words.
 */
import { type Alphabet, NO_LETTER } from './alphabet.js';
import { advance, type Follow, hasMatched, Positions } from './positions.js';
import { Op, type Program } from './program.js';

/** Words of bits up to which it pays to read part by part; larger programs are followed in steps within a text. */
const FEW_WORDS = 4;

/** Where all that a step does is to go one place on: the two words of the sets that it takes. */
interface TwoWords {
  readonly first: readonly [number, number];
  readonly goOn: readonly [number, number];
  readonly matching: readonly [number, number];
  /** Two words a letter. */
  readonly takers: Uint32Array;
}

function twoOf(set: Uint32Array): [number, number] {
  return [set[0] | 0, (set[1] ?? 0) | 0];
}

export class Threads {
  /** Words that are followed a letter. */
  readonly words: number;
  private readonly atStart: Follow;
  private readonly inside: Follow;
  private readonly two: TwoWords | undefined;
  private now: Uint32Array;
  private next: Uint32Array;
  private begun = false;

  private constructor(
    private readonly positions: Positions,
    private readonly alphabet: Alphabet,
  ) {
    this.words = this.positions.words;
    this.atStart = this.positions.follow(NO_LETTER, 0, true);
    this.inside = this.positions.follow(0, 0, true);
    this.two = this.twoWords();
    this.now = new Uint32Array(Math.max(2, this.words));
    this.next = new Uint32Array(this.now.length);
  }

  /** @returns undefined for a large program, and for one that looks at the letters beside the one it reads */
  static of(program: Program, alphabet: Alphabet): Threads | undefined {
    if (alphabet.bits.some((bits) => bits !== 0)) return undefined;
    const positions = program.ops.includes(Op.ReadInside) ? new Positions(program, false) : Positions.of(program);
    return positions.words > FEW_WORDS ? undefined : new Threads(positions, alphabet);
  }

  private twoWords(): TwoWords | undefined {
    const { first, skips, shifts, groups, matching } = this.inside;
    const simple = this.words <= 2 && groups.length === 0 && shifts.every(({ by }) => by === 1);
    if (!simple || skips.some((word) => word !== 0)) return undefined;
    const takers = new Uint32Array(2 * this.alphabet.size);
    for (let letter = 0; letter < this.alphabet.size; letter++)
      takers.set(twoOf(this.positions.takers(this.alphabet, letter, true)), 2 * letter);
    const goOn = twoOf(shifts[0]?.mask ?? new Uint32Array(2));
    return { first: twoOf(first), goOn, matching: twoOf(matching), takers };
  }

  /** Begins a text. */
  begin(): void {
    this.now.fill(0);
    this.begun = false;
  }

  /** @returns whether the program has matched by this letter, or before it */
  private take(letter: number): boolean {
    const follow = this.begun ? this.inside : this.atStart;
    if (hasMatched(follow, this.now)) return true;
    const { now, next } = this;
    advance(follow, this.positions.takers(this.alphabet, letter, true), now, next);
    this.now = next;
    this.next = now;
    this.begun = true;
    return hasMatched(this.inside, next);
  }

  /**
   * Reads on.
   * @param units each below 128 @param letters what each is read as: see `LazyStates.lettersOf`
   * @returns whether the program has matched, whatever follows; then nothing else is to be read of the text
   */
  read(units: Uint8Array, from: number, to: number, letters: Uint16Array): boolean {
    let at = from;
    if (this.begun && this.two) return this.readTwo(this.two, units, at, to, letters);
    for (; at < to; at++) {
      if (this.take(letters[units[at]])) return true;
      if (this.two) return this.readTwo(this.two, units, at + 1, to, letters);
    }
    return false;
  }

  private readTwo(
    { first, goOn, matching, takers }: TwoWords,
    units: Uint8Array,
    from: number,
    to: number,
    letters: Uint16Array,
  ): boolean {
    const [first0, first1] = first;
    const [goOn0, goOn1] = goOn;
    const [matching0, matching1] = matching;
    const { now } = this;
    let now0 = now[0] | 0;
    let now1 = now[1] | 0;
    for (let at = from; at < to; at++) {
      const takes = letters[units[at]] << 1;
      const on0 = now0 & goOn0;
      now1 = (first1 | ((now1 & goOn1) << 1) | (on0 >>> 31)) & takers[takes + 1];
      now0 = (first0 | (on0 << 1)) & takers[takes];
      if (((now0 & matching0) | (now1 & matching1)) !== 0) return true;
    }
    now[0] = now0;
    now[1] = now1;
    return false;
  }

  /** Does what `read` does, of any text. */
  readText(text: string): boolean {
    for (let i = 0; i < text.length; i++) {
      const codePoint = text.codePointAt(i)!;
      if (codePoint > 0xffff) i++;
      if (this.take(this.alphabet.letter(codePoint))) return true;
    }
    return false;
  }

  /** Tells whether the program has matched if the text ends here. */
  matchesAtEnd(): boolean {
    return hasMatched(this.positions.follow(this.begun ? 0 : NO_LETTER, NO_LETTER, true), this.now);
  }
}
