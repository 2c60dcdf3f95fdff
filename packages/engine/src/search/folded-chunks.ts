/** The chunks of a column as an automaton over folded texts reads them. */
import type { Dfa } from '../automaton/index.js';
import { Trait } from '../store/index.js';
import {
  fold, foldWithOffsets, graphemeStarts, isAscii, isCombiningMark, isSpace, isUnitWise, standsAlone, type FoldSetting,
} from '../text/index.js'; // prettier-ignore
import { ChunkReader, type ChunkForm } from './chunk-reader.js';

const SPACES_AT_END = /[\p{White_Space}\ufeff]+$/u;

/**
 * The folded form of a chunk within its text; undefined if that depends on what stands beside it.
 * @param counts whether it matters how many characters there are
 */
export function foldedForm(chunk: string, setting: FoldSetting, counts: boolean): ChunkForm | undefined {
  const letters = chunk.replace(SPACES_AT_END, '');
  // Spaces by themselves are at an end of the text, where folding takes them away.
  if (letters === '') return { text: '' };
  if (isCombiningMark(letters.codePointAt(0)!)) return undefined;
  const text = fold(letters, setting);
  // Some signs fold to spaces, which become one with those beside them.
  if (text === '' || (!isAscii(letters) && fold(`.${letters}.`, setting).includes(' '))) return undefined;
  const space = letters.length < chunk.length ? ' ' : '';
  if (!counts || (text.length === letters.length && isUnitWise(letters))) return { text: text + space };
  if (!standsAlone(letters)) return undefined;
  const folded = foldWithOffsets(letters, setting);
  const starts = graphemeStarts(letters, folded);
  return { text: folded.text + space, starts: space === '' ? starts : Uint8Array.of(...starts, 1) };
}

/** @param counts whether it matters to the program how many characters there are */
export function foldedReader(dfa: Dfa, setting: FoldSetting, counts: boolean): ChunkReader {
  const folded = (unit: number): number => {
    if (isSpace(unit)) return 0x20;
    return setting.case === 'ignore' && unit >= 0x41 && unit <= 0x5a ? unit + 0x20 : unit;
  };
  return new ChunkReader(dfa, {
    letters: dfa.lettersOf(folded),
    trait: Trait.even,
    form: (chunk) => foldedForm(chunk, setting, counts),
  });
}
