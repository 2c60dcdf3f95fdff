/** Words of the table that are spelt nearly as one that is not there. */
import { allowedDistance, NearAutomaton } from '../automaton/index.js';
import type { Table } from '../store/index.js';
import { fold } from '../text/index.js';

export interface NearSpelling {
  /** As the table folds it. */
  readonly word: string;
  readonly distance: number;
  /** An estimate to rank by: rows of the word, summed over columns. */
  readonly weight: number;
}

/** The nearest words of some columns, nearest first, the commonest first of those, at most `most`. */
export function nearSpellings(table: Table, columns: readonly number[], typed: string, most: number): NearSpelling[] {
  const word = fold(typed);
  const letters = [...word].length;
  if (letters < 2) return [];
  const automaton = new NearAutomaton(word, Math.max(1, allowedDistance(letters)));
  const found = new Map<string, { word: string; distance: number; weight: number }>();
  for (const segment of table.segments) {
    for (const column of columns) {
      const { vocabulary } = segment.columns[column];
      const { pool } = vocabulary.words;
      automaton.over(vocabulary.words, (number, distance) => {
        const text = pool.at(number);
        let weight = 0;
        for (const token of vocabulary.words.tokensOf(number)) weight += vocabulary.rowsOfToken(token);
        const known = found.get(text);
        if (known) known.weight += weight;
        else found.set(text, { word: text, distance, weight });
      });
    }
  }
  return [...found.values()]
    .sort((a, b) => a.distance - b.distance || b.weight - a.weight || (a.word < b.word ? -1 : 1))
    .slice(0, most);
}
