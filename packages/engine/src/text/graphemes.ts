/**
 * Grapheme starts of a folded text, in terms of the shown text: what a reader counts as one character. `ß` is one,
 * though it folds to two letters; so is a family emoji of seven code points.
 *
 * Source: UAX #29 Unicode Text Segmentation, through Intl.Segmenter.
 */
import type { Folded } from './fold.js';

const segmenter = new Intl.Segmenter('en', { granularity: 'grapheme' });

/**
 * @returns one byte per UTF-16 unit of `folded.text`: 1 where a character of the shown text begins, else 0
 */
export function graphemeStarts(shown: string, folded: Folded): Uint8Array {
  const starts = new Uint8Array(folded.text.length);
  const graphemeOf = new Uint32Array(shown.length + 1);
  let number = 0;
  for (const { index, segment } of segmenter.segment(shown)) {
    number++;
    graphemeOf.fill(number, index, index + segment.length);
  }
  let last = 0;
  for (let i = 0; i < starts.length; i++) {
    const grapheme = graphemeOf[folded.starts[i]];
    if (grapheme !== last) starts[i] = 1;
    last = grapheme;
  }
  return starts;
}
