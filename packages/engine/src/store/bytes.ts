/**
 * A byte for each of many numbers, in memory that is made up to whole words of four, so that they can be gone through four
 * at a time without a rest. The bytes beyond the last number are 0.
 */
declare const whole: unique symbol;
export type WholeBytes = Uint8Array<ArrayBuffer> & { readonly [whole]: true };

/** @param size how many numbers there are */
export function wholeBytes(size: number): WholeBytes {
  return new Uint8Array(new ArrayBuffer((size + 3) & ~3), 0, size) as WholeBytes;
}

/** The first of them, in the same memory, all 0. */
export function clearedBeginning(bytes: WholeBytes, size: number): WholeBytes {
  bytes.fill(0);
  return bytes.subarray(0, size) as WholeBytes;
}

export function wordsOf(bytes: WholeBytes): Uint32Array {
  return new Uint32Array(bytes.buffer, bytes.byteOffset, (bytes.length + 3) >>> 2);
}

const EACH = 0x01010101;
/** Sums of single bytes hold so many words' ones, added four at a time. */
const MOST = 4 * 63;

/** Tells how many have their lowest bit; four words at a time: see `bits.ts`. */
export function countOnes(bytes: WholeBytes): number {
  const words = wordsOf(bytes);
  const whole = words.length & ~3;
  let count = 0;
  for (let i = 0; i < whole;) {
    const end = Math.min(i + MOST, whole);
    let sums = 0;
    for (; i < end; i += 4)
      sums = (sums + (words[i] & EACH) + (words[i + 1] & EACH) + (words[i + 2] & EACH) + (words[i + 3] & EACH)) | 0;
    count += (sums & 255) + ((sums >>> 8) & 255) + ((sums >>> 16) & 255) + (sums >>> 24);
  }
  for (let i = whole; i < words.length; i++) count += Math.imul(words[i] & EACH, EACH) >>> 24;
  return count;
}
