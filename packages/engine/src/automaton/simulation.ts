/**
 * Does a program match anywhere in a text? By following all its threads at once, as bits of words: the way for programs whose
 * deterministic automaton would have too many states, as those of long counted repeats have. Time is linear in the text, at
 * some operations a word of bits and letter, whatever the counts (`positions.ts`); memory is linear in the program.
 *
 * A text whose reading is stopped since time is up is read on from there when it is asked again.
 *
 * Source: V. Glushkov, "The abstract theory of automata", 1961 (positions); R. Baeza-Yates, G. Gonnet, "A new approach to
 * text searching", CACM 35(10), 1992 (threads as bits).
 */
import { type Alphabet, NO_LETTER } from './alphabet.js';
import { rest, TimeIsUp } from './pace.js';
import { advance, type Follow, hasMatched, Positions } from './positions.js';
import type { Program } from './program.js';

/** Words of bits that are worked on between two looks at the clock. */
const WORDS_AT_ONCE = 2_048;

/** A text that was not read to its end. */
interface InHand {
  readonly text: string;
  readonly at: number;
  readonly before: number;
}

export class Simulation {
  private readonly positions: Positions;
  private threads: Uint32Array;
  private next: Uint32Array;
  private inHand: InHand | undefined;
  private isNew = true;

  constructor(
    program: Program,
    private readonly alphabet: Alphabet,
  ) {
    this.positions = Positions.of(program);
    this.threads = new Uint32Array(this.positions.words);
    this.next = new Uint32Array(this.positions.words);
  }

  /**
   * @param starts one byte a UTF-16 unit, 1 where a character of the shown text begins; without it every code point is one
   * @throws TimeIsUp; asked again for the same text, it goes on
   */
  test(text: string, starts?: Uint8Array): boolean {
    const { alphabet, positions } = this;
    const inHand = this.inHand?.text === text ? this.inHand : undefined;
    this.inHand = undefined;
    if (!inHand) this.threads.fill(0);
    if (this.isNew) {
      // To find out that there are too many states has taken time, and so does to find out what may follow what.
      this.isNew = false;
      rest();
    }
    let before = inHand?.before ?? NO_LETTER;
    let left = WORDS_AT_ONCE;
    for (let i = inHand?.at ?? 0; i < text.length;) {
      if ((left -= positions.words) < 0) {
        left = WORDS_AT_ONCE;
        this.look({ text, at: i, before });
      }
      const first = starts?.[i] !== 0;
      const codePoint = text.codePointAt(i)!;
      const letter = alphabet.letter(codePoint);
      const after = alphabet.bits[letter];
      const follow = this.follow(before, after, first, text, i);
      if (hasMatched(follow, this.threads)) return true;
      const { threads, next } = this;
      advance(follow, positions.takers(alphabet, letter, first), threads, next);
      this.threads = next;
      this.next = threads;
      before = after;
      i += codePoint > 0xffff ? 2 : 1;
    }
    return hasMatched(this.follow(before, NO_LETTER, true, text, text.length), this.threads);
  }

  /** Gives what may follow at a place of a text, worked out where that was not asked before. @throws TimeIsUp */
  private follow(before: number, after: number, first: boolean, text: string, at: number): Follow {
    const known = this.positions.known(before, after, first);
    if (known) return known;
    const steps = this.positions.followSteps(before, after, first);
    for (let step = steps.next(); ; step = steps.next()) {
      if (step.done) return step.value;
      this.look({ text, at, before });
    }
  }

  /** @throws TimeIsUp, with what was read so far in hand */
  private look(inHand: InHand): void {
    try {
      rest();
    } catch (error) {
      if (error instanceof TimeIsUp) this.inHand = inHand;
      throw error;
    }
  }
}
