/** Verdicts on the distinct values of a column, `wholeBytes` gone through four at a time, since there are many. */
import { countOnes, wordsOf, type WholeBytes } from '../../store/index.js';

/** The verdict of a value that is not asked, or does not hit. */
export const NO = 0;
/** The verdict of one that is still asked, or, once all has been asked, hits. */
export const YES = 1;
/** The verdict of one that cannot be told chunk by chunk. */
export const UNTOLD = 2;
/** The verdict of one that hits, where others are still asked. Only this has the highest bit. */
export const HIT = 128;

const EACH = 0x01010101;

// Four words at a time: see `bits.ts`.

/** How many values are asked, or hit. */
export { countOnes as countYes };

/** Tells whether there is one that cannot be told chunk by chunk. */
export function hasUntold(verdicts: WholeBytes): boolean {
  const words = wordsOf(verdicts);
  const whole = words.length & ~3;
  let all = 0;
  for (let i = 0; i < whole; i += 4) all |= words[i] | words[i + 1] | words[i + 2] | words[i + 3];
  for (let i = whole; i < words.length; i++) all |= words[i];
  return (all & (UNTOLD * EACH)) !== 0;
}

function settled(word: number): number {
  return (word & (3 * EACH)) | ((word >>> 7) & EACH);
}

/** Makes YES of each HIT. */
export function settle(verdicts: WholeBytes): void {
  const words = wordsOf(verdicts);
  const whole = words.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    words[i] = settled(words[i]);
    words[i + 1] = settled(words[i + 1]);
    words[i + 2] = settled(words[i + 2]);
    words[i + 3] = settled(words[i + 3]);
  }
  for (let i = whole; i < words.length; i++) words[i] = settled(words[i]);
}

/** The verdicts of a chunk on a value that it comes in. Bits, since a value has several chunks. */
export const Said = {
  /** The value hits. */
  hit: 1,
  /** The value has to be read, unless another chunk hits. */
  open: 2,
  /** The value has to be read: what other chunks say may not hold. */
  odd: 4,
  /** The value has to be read if there is a chunk that heeds where this one leads to. */
  leads: 8,
  heeds: 16,
} as const;

/** Tells the verdicts of four values by what their chunks say. */
function told(verdicts: number, said: number): number {
  const open = (said >>> 1) | ((said >>> 3) & (said >>> 4));
  const read = ((said >>> 2) | (open & ~said)) & EACH;
  const asked = verdicts & EACH & (read | said);
  return (asked & read) | ((asked & ~read) << 7) | (verdicts & (HIT * EACH));
}

/**
 * Makes verdicts of what the chunks of values say.
 * @param verdicts NO and YES; a value with YES becomes HIT if it hits, stays if it has to be read, else becomes NO; one with HIT keeps it
 * @param said of each value, bits of `Said`
 */
export function tell(verdicts: WholeBytes, said: WholeBytes): void {
  const words = wordsOf(verdicts);
  const bits = wordsOf(said);
  const whole = words.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    words[i] = told(words[i], bits[i]);
    words[i + 1] = told(words[i + 1], bits[i + 1]);
    words[i + 2] = told(words[i + 2], bits[i + 2]);
    words[i + 3] = told(words[i + 3], bits[i + 3]);
  }
  for (let i = whole; i < words.length; i++) words[i] = told(words[i], bits[i]);
}
