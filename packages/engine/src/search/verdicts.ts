/** Verdicts on the distinct values of a column, `wholeBytes` gone through four at a time, since there are many. */
import { wordsOf, type WholeBytes } from '../store/index.js';

/** Of a value: it is not asked, or does not hit. */
export const NO = 0;
/** It is still asked, or, once all has been asked, hits. */
export const YES = 1;
/** It cannot be told chunk by chunk. */
export const UNTOLD = 2;
/** It hits, where others are still asked. Only this has the highest bit. */
export const HIT = 128;

const EACH = 0x01010101;
/** Sums of single bytes hold so many ones. */
const MOST = 255;

/** How many values are asked, or hit. */
export function countYes(verdicts: WholeBytes): number {
  const words = wordsOf(verdicts);
  let count = 0;
  for (let i = 0; i < words.length;) {
    const end = Math.min(i + MOST, words.length);
    let sums = 0;
    for (; i < end; i++) sums = (sums + (words[i] & EACH)) | 0;
    count += (sums & 255) + ((sums >>> 8) & 255) + ((sums >>> 16) & 255) + (sums >>> 24);
  }
  return count;
}

/** Whether there is one that cannot be told chunk by chunk. */
export function hasUntold(verdicts: WholeBytes): boolean {
  const words = wordsOf(verdicts);
  let all = 0;
  for (let i = 0; i < words.length; i++) all |= words[i];
  return (all & (UNTOLD * EACH)) !== 0;
}

/** Makes YES of each HIT. */
export function settle(verdicts: WholeBytes): void {
  const words = wordsOf(verdicts);
  for (let i = 0; i < words.length; i++) words[i] = (words[i] & (3 * EACH)) | ((words[i] >>> 7) & EACH);
}

/** What a chunk says of a value that it comes in. Bits, since a value has several chunks. */
export const Said = {
  /** The value hits. */
  hit: 1,
  /** It has to be read, unless another chunk hits. */
  open: 2,
  /** It has to be read: what other chunks say may not hold. */
  odd: 4,
  /** It has to be read if there is one that heeds where this one leads to. */
  leads: 8,
  heeds: 16,
} as const;

/**
 * Makes verdicts of what the chunks of values say.
 * @param verdicts NO and YES; a value with YES becomes HIT if it hits, stays if it has to be read, else becomes NO
 * @param said of each value, bits of `Said`
 */
export function tell(verdicts: WholeBytes, said: WholeBytes): void {
  const words = wordsOf(verdicts);
  const bits = wordsOf(said);
  for (let i = 0; i < words.length; i++) {
    const each = bits[i];
    const open = (each >>> 1) | ((each >>> 3) & (each >>> 4));
    const read = ((each >>> 2) | (open & ~each)) & EACH;
    words[i] &= read | (each & EACH);
    words[i] = (words[i] & read) | ((words[i] & ~read) << 7);
  }
}
