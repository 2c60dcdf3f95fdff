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
