/** Words of the table that are spelt nearly as one that is not there. */
import { allowedDistance, NearAutomaton } from '../automaton/index.js';
import type { Table } from '../store/index.js';
import { fold, words } from '../text/index.js';

interface NearSpelling {
  /** The word as the table folds it. */
  readonly word: string;
  readonly distance: number;
  /** An estimate to rank by: rows of the word, summed over columns. */
  readonly weight: number;
}

/**
 * The nearest words of some columns, nearest first, the commonest first of those, at most `most`. Cells that were changed or added
 * since their column was built are in no vocabulary, and are read one by one. It rests after each segment.
 */
export function* nearSpellings(
  table: Table,
  columns: readonly number[],
  typed: string,
  most: number,
): Generator<void, NearSpelling[]> {
  const word = fold(typed);
  const letters = [...word].length;
  if (letters < 2) return [];
  const automaton = new NearAutomaton(word, Math.max(1, allowedDistance(letters)));
  const found = new Map<string, { word: string; distance: number; weight: number }>();
  const put = (text: string, distance: number, weight: number): void => {
    const known = found.get(text);
    if (known) known.weight += weight;
    else found.set(text, { word: text, distance, weight });
  };
  for (const segment of table.segments) {
    for (const column of columns) {
      const { vocabulary } = segment.columns[column];
      const { pool } = vocabulary.words;
      automaton.over(vocabulary.words, (number, distance) => {
        let weight = 0;
        for (const token of vocabulary.words.tokensOf(number)) weight += vocabulary.rowsOfToken(token);
        put(pool.at(number), distance, weight);
      });
      for (const text of segment.columns[column].changedFaces())
        for (const { start, end } of words(text)) {
          const distance = automaton.distanceOf(text.slice(start, end));
          if (distance !== Infinity) put(text.slice(start, end), distance, 1);
        }
    }
    yield;
  }
  return [...found.values()]
    .sort((a, b) => a.distance - b.distance || b.weight - a.weight || (a.word < b.word ? -1 : 1))
    .slice(0, most);
}
