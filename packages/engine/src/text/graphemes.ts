/**
 * Grapheme starts of a folded text, in terms of the shown text: what a reader counts as one character. `ß` is one,
 * though it folds to two letters; so is a family emoji of seven code points.
 *
 * Source: UAX #29 Unicode Text Segmentation, through Intl.Segmenter.
 */
import type { Folded } from './fold.js';

/** Units that are characters by themselves: no marks, joiners, surrogates or jamo among them. */
const SINGLE_UNITS = /^[\x00-\x7f\u00a1-\u02ff\u0386-\u03ff\u2010-\u2027\u2030-\u205e]*$/;

/** True of a text of which every UTF-16 unit is surely one character as shown. */
export function isUnitWise(text: string): boolean {
  return SINGLE_UNITS.test(text) && !text.includes('\r\n');
}

const segmenter = new Intl.Segmenter('en', { granularity: 'grapheme' });

/** Tells whether no letter of a text joins with a space beside it to one character. */
export function standsAlone(text: string): boolean {
  if (isUnitWise(text)) return true;
  const segments = [...segmenter.segment(` ${text} `)];
  return segments[0].segment === ' ' && segments[segments.length - 1].segment === ' ';
}

/**
 * @returns one byte per UTF-16 unit of `folded.text`: 1 where a character of the shown text begins, else 0
 */
export function graphemeStarts(shown: string, folded: Folded): Uint8Array {
  const starts = new Uint8Array(folded.text.length);
  const graphemeOf = new Uint32Array(shown.length + 1);
  let number = 0;
  if (isUnitWise(shown)) for (let i = 0; i < shown.length; i++) graphemeOf[i] = i + 1;
  else {
    for (const { index, segment } of segmenter.segment(shown)) {
      number++;
      graphemeOf.fill(number, index, index + segment.length);
    }
  }
  let last = 0;
  for (let i = 0; i < starts.length; i++) {
    const grapheme = graphemeOf[folded.starts[i]];
    if (grapheme !== last) starts[i] = 1;
    last = grapheme;
  }
  return starts;
}

/**
 * Finds where the characters of a text itself begin: one byte a UTF-16 unit. A line break of two units counts as two, since either
 * may be asked for. @returns undefined if every unit is a character
 */
export function characterStarts(text: string): Uint8Array | undefined {
  if (isUnitWise(text)) return undefined;
  const starts = new Uint8Array(text.length);
  for (const { index } of segmenter.segment(text)) starts[index] = 1;
  for (let i = 0; i < text.length; i++) if (text[i] === '\n') starts[i] = 1;
  return starts;
}
