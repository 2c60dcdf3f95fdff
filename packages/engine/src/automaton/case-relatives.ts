/** Characters that differ by case only: what a written character stands for when case is ignored. */
import { foldCase } from '../text/index.js';
import { normalRanges, type CodeRange } from '../notation/index.js';

/** The last code point of the planes whose characters may have case. */
const LAST_CASED = 0x1ffff;

let families: Map<string, number[]> | undefined;

function familyOf(folded: string): readonly number[] {
  if (!families) {
    families = new Map();
    const cased = /\p{Changes_When_Casemapped}/u;
    for (let codePoint = 0x41; codePoint <= LAST_CASED; codePoint++) {
      const character = String.fromCodePoint(codePoint);
      if (!cased.test(character)) continue;
      const key = foldCase(character);
      const family = families.get(key);
      if (family) family.push(codePoint);
      else families.set(key, [codePoint]);
    }
  }
  return families.get(folded) ?? [];
}

const CASED_LOW = 0x41;
/** A range longer than this holds whole scripts, and with them the relatives of its members. */
const LONGEST_WALKED = 0x3000;

/** The ranges with every character that folds to what a member folds to. */
export function caseRelatives(ranges: readonly CodeRange[]): CodeRange[] {
  const all: CodeRange[] = [...ranges];
  for (const [low, high] of ranges) {
    if (high - low > LONGEST_WALKED) continue;
    for (let codePoint = Math.max(low, CASED_LOW); codePoint <= Math.min(high, LAST_CASED); codePoint++) {
      for (const relative of familyOf(foldCase(String.fromCodePoint(codePoint)))) all.push([relative, relative]);
    }
  }
  return normalRanges(all);
}
