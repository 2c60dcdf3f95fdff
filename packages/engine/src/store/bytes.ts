/**
 * A byte for each of many numbers, in memory that is made up to whole words of four, so that they can be gone through four
 * at a time without a rest. The bytes beyond the last number are 0.
 */
export function wholeBytes(size: number): Uint8Array<ArrayBuffer> {
  return new Uint8Array(new ArrayBuffer((size + 3) & ~3), 0, size);
}

/** @param bytes by `wholeBytes`, or from its beginning @throws RangeError if they are not */
export function wordsOf(bytes: Uint8Array): Uint32Array {
  return new Uint32Array(bytes.buffer, bytes.byteOffset, (bytes.length + 3) >>> 2);
}
