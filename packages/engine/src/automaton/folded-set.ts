/** A set of a pattern, as it is once case and accents are folded. */
import { normalRanges, otherRanges, type CharacterSet, type CodeRange } from '../notation/index.js';
import { foldForPatternCharacter, type FoldSetting } from '../text/index.js';
import { caseRelatives } from './case-relatives.js';
import { propertyRanges } from './properties.js';

/** Largest set of which each member is folded; larger ones hold whole scripts, whose accents do not matter. */
const FOLDED_ONE_BY_ONE = 4_000;

/** Ranges of a set once case and accents are folded, and the members that fold to several characters. */
export function foldedSet(
  set: CharacterSet,
  setting: FoldSetting,
): { ranges: readonly CodeRange[]; spelt: readonly string[] } {
  const members = set.written.reduce((sum, [low, high]) => sum + high - low + 1, 0);
  let written: readonly CodeRange[] = set.written;
  const spelt: string[] = [];
  if (members <= FOLDED_ONE_BY_ONE) {
    const folded: CodeRange[] = [];
    for (const [low, high] of set.written) {
      for (let codePoint = low; codePoint <= high; codePoint++) {
        const text = foldForPatternCharacter(String.fromCodePoint(codePoint), setting);
        const first = text.codePointAt(0);
        if (first === undefined) continue;
        if (text.length === (first > 0xffff ? 2 : 1)) folded.push([first, first]);
        else spelt.push(text);
      }
    }
    written = normalRanges(folded);
  }
  if (setting.case === 'ignore') written = caseRelatives(written);
  const ranges = normalRanges([...written, ...set.named, ...set.properties.flatMap(propertyRanges)]);
  return { ranges: set.negated ? otherRanges(ranges) : ranges, spelt: set.negated ? [] : spelt };
}
