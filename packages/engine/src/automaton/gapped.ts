/**
 * Wildcards by leaps: between two `*` a wildcard is a text with gaps of a fixed width, so its hits are found by searching
 * for its longest literal and looking whether the rest stands around it. Taking each part as early as it comes is enough to
 * know whether all of them come one after another. Where every UTF-16 unit is one character, that is all there is to it.
 *
 * Source: the leftmost-first treatment of `*` in M. E. Abrahamson's generalised string matching, SIAM J. Comput. 16(6), 1987.
 */
import { ANY_RUN, ONE_CHARACTER } from '../notation/index.js';

/** A longer part is left to the automaton, which stays linear whatever is asked. */
const PART_LIMIT = 64;
/** Of an anchor: not looked for yet; in none of the texts to come. */
const UNSEARCHED = -2;
const GONE = -1;

interface Literal {
  readonly text: string;
  /** Units before it in its part. */
  readonly offset: number;
}

interface Part {
  readonly length: number;
  /** The longest literal; undefined for a part of gaps only. */
  readonly anchor: Literal | undefined;
  readonly others: readonly Literal[];
}

function readPart(template: string): Part {
  const literals: Literal[] = [];
  let offset = 0;
  for (const text of template.split(ONE_CHARACTER)) {
    if (text !== '') literals.push({ text, offset });
    offset += text.length + 1;
  }
  const anchor = literals.reduce<Literal | undefined>(
    (best, one) => (best && best.text.length >= one.text.length ? best : one),
    undefined,
  );
  return { length: offset - 1, anchor, others: literals.filter((one) => one !== anchor) };
}

export class Gapped {
  /** Per part, the last place its anchor was found at, which need not be searched for again. */
  private readonly cursor: number[];

  private constructor(private readonly parts: readonly Part[]) {
    this.cursor = parts.map(() => UNSEARCHED);
  }

  /** @param template folded, of a wildcard that may stand anywhere. @returns undefined for one that is left to the automaton */
  static of(template: string): Gapped | undefined {
    const parts = template.split(ANY_RUN).filter((part) => part !== ''); // prettier-ignore
    if (parts.length === 0 || parts.some((part) => part.length > PART_LIMIT)) return undefined;
    return new Gapped(parts.map(readPart));
  }

  /** Whether it stands somewhere in a text that is not empty. */
  test(text: string): boolean {
    this.cursor.fill(UNSEARCHED);
    return this.testIn(text, 0, text.length);
  }

  /**
   * As `test`, of many texts in one string: the verdict `passed` for those it stands in.
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
    this.cursor.fill(UNSEARCHED);
    for (let number = 0; number < verdicts.length; number++) {
      if ((lies[number] & mask) === 0) continue;
      if (this.testIn(joined, starts[number], starts[number + 1] - 1)) verdicts[number] = passed;
      else if (this.cursor[0] === GONE) return;
    }
  }

  /** Numbers of the texts in one string that it stands in, rising. */
  among(joined: string, starts: Uint32Array): number[] {
    const found: number[] = [];
    this.cursor.fill(UNSEARCHED);
    for (let number = 0; number + 1 < starts.length && this.cursor[0] !== GONE; number++) {
      // Texts before the next anchor are passed over at once.
      const next = this.cursor[0];
      if (next >= 0 && starts[number + 1] <= next) continue;
      if (this.testIn(joined, starts[number], starts[number + 1] - 1)) found.push(number);
    }
    return found;
  }

  private testIn(joined: string, from: number, to: number): boolean {
    let at = from;
    for (let i = 0; i < this.parts.length; i++) {
      at = this.endOf(this.parts[i], joined, at, to, i);
      if (at < 0) return false;
    }
    return true;
  }

  /** Where the first hit of a part at or after `from` ends; -1 if none does by `to`. */
  private endOf(part: Part, joined: string, from: number, to: number, i: number): number {
    const { length, anchor, others } = part;
    const { cursor } = this;
    if (from + length > to) return -1;
    if (!anchor) return from + length;
    let at = cursor[i];
    if (at === UNSEARCHED || (at >= 0 && at < from + anchor.offset))
      at = joined.indexOf(anchor.text, from + anchor.offset);
    while (at >= 0 && at - anchor.offset + length <= to) {
      const start = at - anchor.offset;
      if (others.every(({ text, offset }) => joined.startsWith(text, start + offset))) {
        cursor[i] = at;
        return start + length;
      }
      at = joined.indexOf(anchor.text, at + 1);
    }
    cursor[i] = at;
    return -1;
  }
}
