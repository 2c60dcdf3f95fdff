/**
 * Texts at the start or the end of a cell, in columns of serials: each value is one chunk, which need not be read through to
 * see how it begins or ends.
 */
import type { Where } from '../notation/index.js';
import { Trait, type Chunks } from '../store/index.js';
import { isAscii, type FoldSetting } from '../text/index.js';
import { foldedUnit } from './folded-chunks.js';

/**
 * @param needle folded
 * @param asked 1 for each value that is asked; those that do not hit become 0
 * @returns false if it could not be told, and nothing is written
 */
export function judgeAtEnds(
  { single, own }: Chunks,
  needle: string,
  where: Where,
  setting: FoldSetting,
  asked: Uint8Array,
): boolean {
  const [atStart, atEnd] = [
    where === 'start of the cell' || where === 'whole cell',
    where === 'end of the cell' || where === 'whole cell',
  ];
  if (!single || !(atStart || atEnd) || (own.sharedTraits & Trait.even) === 0 || !isAscii(needle)) return false;
  const { units, starts, traits } = own;
  const { length } = needle;
  const letters = Uint8Array.from(needle, (letter) => letter.charCodeAt(0));
  const folded = Uint8Array.from({ length: 128 }, (_, unit) => foldedUnit(unit, setting));
  for (let value = 0; value < asked.length; value++) {
    if (asked[value] === 0) continue;
    const start = starts[value];
    let end = starts[value + 1] - 1;
    // A space at the end is not part of the text as it is searched; a chunk has one at most.
    if ((traits[value] & Trait.spaced) !== 0) end--;
    let from = atEnd ? end - length : start;
    if (end - start < length || (atStart && atEnd && end - start !== length)) {
      asked[value] = 0;
      continue;
    }
    for (let i = 0; i < length; i++, from++) {
      if (folded[units[from]] !== letters[i]) {
        asked[value] = 0;
        break;
      }
    }
  }
  return true;
}
