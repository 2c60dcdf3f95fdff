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

/** Makes YES of each HIT. */
export function settle(verdicts: WholeBytes): void {
  const words = wordsOf(verdicts);
  for (let i = 0; i < words.length; i++) words[i] = (words[i] & (3 * EACH)) | ((words[i] >>> 7) & EACH);
}

/**
 * Makes verdicts of what the chunks of values say.
 * @param verdicts NO and YES; a value with YES becomes HIT if its bits are 1 alone, stays if 2 or 4 is among them, else
 * becomes NO
 * @param bits of each value, below 16
 */
export function tell(verdicts: WholeBytes, bits: WholeBytes): void {
  const words = wordsOf(verdicts);
  const said = wordsOf(bits);
  for (let i = 0; i < words.length; i++) {
    const open = ((said[i] >>> 1) | (said[i] >>> 2)) & EACH;
    words[i] &= open | (said[i] & ~open & EACH);
    words[i] = (words[i] & open) | ((words[i] & ~open) << 7);
  }
}
