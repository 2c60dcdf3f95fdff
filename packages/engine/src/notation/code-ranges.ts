/** Ranges of code points, and those that patterns name. Source: ECMA-262, 22.2.2.9 (`\d \w \s`) and 12.3 (line terminators). */

/** Code points from `low` to `high`, both inclusive. */
export type CodeRange = readonly [low: number, high: number];

export const LAST_CODE_POINT = 0x10ffff;

export const DIGIT: CodeRange[] = [[0x30, 0x39]];
export const WORD: CodeRange[] = [
  [0x30, 0x39],
  [0x41, 0x5a],
  [0x5f, 0x5f],
  [0x61, 0x7a],
];
export const SPACE: CodeRange[] = [
  [0x09, 0x0d],
  [0x20, 0x20],
  [0xa0, 0xa0],
  [0x1680, 0x1680],
  [0x2000, 0x200a],
  [0x2028, 0x2029],
  [0x202f, 0x202f],
  [0x205f, 0x205f],
  [0x3000, 0x3000],
  [0xfeff, 0xfeff],
];
export const LINE_BREAK: CodeRange[] = [
  [0x0a, 0x0a],
  [0x0d, 0x0d],
  [0x2028, 0x2029],
];
/** Sorted, without overlap or touching ranges. */
export function normalRanges(ranges: readonly CodeRange[]): CodeRange[] {
  const sorted = [...ranges].sort((a, b) => a[0] - b[0]);
  const normal: [number, number][] = [];
  for (const [low, high] of sorted) {
    const last = normal.at(-1);
    if (last && low <= last[1] + 1) last[1] = Math.max(last[1], high);
    else normal.push([low, high]);
  }
  return normal;
}

/** All code points that are in none of the ranges. */
export function otherRanges(ranges: readonly CodeRange[]): CodeRange[] {
  const others: CodeRange[] = [];
  let next = 0;
  for (const [low, high] of normalRanges(ranges)) {
    if (low > next) others.push([next, low - 1]);
    next = high + 1;
  }
  if (next <= LAST_CODE_POINT) others.push([next, LAST_CODE_POINT]);
  return others;
}
