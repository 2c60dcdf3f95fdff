/** The chunks of a column as an automaton over folded texts reads them. */
import type { Dfa } from '../../automaton/index.js';
import { Trait } from '../../store/index.js';
import {
  characterStarts,
  fold,
  foldWithOffsets,
  graphemeStarts,
  isAscii,
  isCombiningMark,
  isSpace,
  isUnitWise,
  standsAlone,
  type FoldSetting,
} from '../../text/index.js';
import { ChunkReader } from './chunk-reader.js';
import type { ChunkForm } from './chunk-reading.js';

const SPACES_AT_END = /[\p{White_Space}\ufeff]+$/u;

/** The characters that matter: those of the text as shown (to `?`), those of the folded text (where hits begin and end), none. */
export type Characters = 'shown' | 'folded' | 'none';

/** The folded form of a chunk within its text; undefined if that depends on what stands beside it. */
export function foldedForm(chunk: string, setting: FoldSetting, characters: Characters): ChunkForm | undefined {
  const letters = chunk.replace(SPACES_AT_END, '');
  // Spaces by themselves are at an end of the text, where folding takes them away.
  if (letters === '') return { text: '' };
  if (isCombiningMark(letters.codePointAt(0)!)) return undefined;
  const text = fold(letters, setting);
  // Some signs fold to spaces, which become one with those beside them.
  if (text === '' || (!isAscii(letters) && fold(`.${letters}.`, setting).includes(' '))) return undefined;
  const space = letters.length < chunk.length ? ' ' : '';
  if (characters === 'none' || (text.length === letters.length && isUnitWise(letters))) return { text: text + space };
  if (!standsAlone(letters)) return undefined;
  const starts =
    characters === 'folded' ? characterStarts(text) : graphemeStarts(letters, foldWithOffsets(letters, setting));
  if (!starts) return { text: text + space };
  return { text: text + space, starts: space === '' ? starts : Uint8Array.of(...starts, 1) };
}

/** Gives what an ASCII unit folds to. */
export function foldedUnit(unit: number, setting: FoldSetting): number {
  if (isSpace(unit)) return 0x20;
  return setting.case === 'ignore' && unit >= 0x41 && unit <= 0x5a ? unit + 0x20 : unit;
}

export function foldedReader(dfa: Dfa, setting: FoldSetting, characters: Characters): ChunkReader {
  return new ChunkReader(dfa, {
    key: `folded ${setting.case} ${setting.accents} ${characters}`,
    letters: dfa.lettersOf((unit) => foldedUnit(unit, setting)),
    trait: Trait.even,
    form: (chunk) => foldedForm(chunk, setting, characters),
    trimmed: true,
  });
}
