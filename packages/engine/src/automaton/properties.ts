/**
 * Unicode properties as ranges of code points, by the platform's own tables. Found by one pass of the platform's expression
 * over runs of code points, some thirty milliseconds; the last ones asked for are remembered.
 *
 * Source: ECMA-262, 22.2.1.9 (UnicodePropertyValueExpression).
 */
import { LAST_CODE_POINT, otherRanges, type CodeRange, type Property } from '../notation/index.js';

/** Properties remembered. */
const REMEMBERED = 32;
const STRETCH = 0x1000;
/** Where surrogates begin, where the low ones do, and where they end: high and low ones side by side would be read as pairs. */
const CUTS = [0xd800, 0xdc00, 0xe000];

const remembered = new Map<string, readonly CodeRange[]>();

function* stretches(): Generator<readonly [from: number, to: number]> {
  let from = 0;
  while (from <= LAST_CODE_POINT) {
    const cut = CUTS.find((one) => one > from) ?? Infinity;
    const to = Math.min(from + STRETCH, cut, LAST_CODE_POINT + 1);
    yield [from, to];
    from = to;
  }
}

function rangesOf(name: string): CodeRange[] {
  const runs = new RegExp(`\\p{${name}}+`, 'gu');
  const ranges: [number, number][] = [];
  for (const [from, to] of stretches()) {
    const text = String.fromCodePoint(...Array.from({ length: to - from }, (_, i) => from + i));
    const units = from > 0xffff ? 2 : 1;
    for (const { 0: run, index } of text.matchAll(runs)) {
      const low = from + index / units;
      const high = low + run.length / units - 1;
      const last = ranges.at(-1);
      if (last && last[1] + 1 === low) last[1] = high;
      else ranges.push([low, high]);
    }
  }
  return ranges;
}

/** Code points that have a property, or those that have not. */
export function propertyRanges({ name, not }: Property): readonly CodeRange[] {
  let ranges = remembered.get(name);
  remembered.delete(name);
  ranges ??= rangesOf(name);
  remembered.set(name, ranges);
  if (remembered.size > REMEMBERED) remembered.delete(remembered.keys().next().value!);
  return not ? otherRanges(ranges) : ranges;
}
