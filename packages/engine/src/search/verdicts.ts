/**
 * Verdicts on the distinct values of a column, a byte each. They are gone through four at a time, since there are many; what
 * is left at the end is gone through by itself.
 */

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

function wordsOf(verdicts: Uint8Array): Uint32Array {
  return new Uint32Array(verdicts.buffer, verdicts.byteOffset, verdicts.length >>> 2);
}

/** How many values are asked, or hit. */
export function countYes(verdicts: Uint8Array): number {
  const words = wordsOf(verdicts);
  let count = 0;
  for (let i = 0; i < words.length;) {
    const end = Math.min(i + MOST, words.length);
    let sums = 0;
    for (; i < end; i++) sums = (sums + (words[i] & EACH)) | 0;
    count += (sums & 255) + ((sums >>> 8) & 255) + ((sums >>> 16) & 255) + (sums >>> 24);
  }
  for (let value = words.length << 2; value < verdicts.length; value++) count += verdicts[value] & YES;
  return count;
}

/** Makes YES of each HIT. */
export function settle(verdicts: Uint8Array): void {
  const settled = (verdict: number): number => (verdict & (3 * EACH)) | ((verdict >>> 7) & EACH);
  const words = wordsOf(verdicts);
  for (let i = 0; i < words.length; i++) words[i] = settled(words[i]);
  for (let value = words.length << 2; value < verdicts.length; value++) verdicts[value] = settled(verdicts[value]);
}

/**
 * Makes verdicts of what the chunks of values say.
 * @param verdicts NO and YES; a value with YES becomes HIT if its bits are 1 alone, stays if 2 or 4 is among them, else
 * becomes NO
 * @param bits of each value, below 16
 */
export function tell(verdicts: Uint8Array, bits: Uint8Array): void {
  const told = (verdict: number, said: number): number => {
    const open = (said >>> 1) | (said >>> 2);
    return (verdict & open & EACH) | ((verdict & said & ~open & EACH) << 7);
  };
  const [words, wordsSaid] = [wordsOf(verdicts), wordsOf(bits)];
  for (let i = 0; i < words.length; i++) words[i] = told(words[i], wordsSaid[i]);
  for (let value = words.length << 2; value < verdicts.length; value++)
    verdicts[value] = told(verdicts[value], bits[value]);
}
