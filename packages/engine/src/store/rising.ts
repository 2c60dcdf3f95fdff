/** Looking a number up among rising ones. */

/** Index of the first of rising `numbers` that is `least` or more. */
export function firstAtLeast(numbers: Uint32Array | Uint16Array, least: number): number {
  let low = 0;
  let high = numbers.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (numbers[middle] < least) low = middle + 1;
    else high = middle;
  }
  return low;
}
