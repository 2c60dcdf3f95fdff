/** Tokens of the table that have the letters and digits of one typed, in order, and other signs or none between them. */
import { lettersOf, type Table } from '../store/index.js';
import { fold, isWordCharacter } from '../text/index.js';

/** Shorter ones are too often in others by chance. */
const SHORTEST = 3;

interface SameLetters {
  /** The text as the table folds it. */
  readonly text: string;
  /** An estimate to rank by: rows of the token, summed over columns. */
  readonly weight: number;
}

/**
 * Parts of tokens that are the typed text but for its signs, the commonest first.
 * It rests after each segment.
 * @param typed a word or phrase; its spaces are signs like others
 */
export function* sameLetters(
  table: Table,
  columns: readonly number[],
  typed: string,
  most: number,
): Generator<void, SameLetters[]> {
  const letters = lettersOf(fold(typed));
  if ([...letters].length < SHORTEST) return [];
  const found = new Map<string, number>();
  const put = (token: string, rows: number): void => {
    const part = partWith(token, letters);
    if (part !== undefined) found.set(part, (found.get(part) ?? 0) + rows);
  };
  for (const segment of table.segments) {
    for (const column of columns) {
      const { vocabulary } = segment.columns[column];
      const { tokens } = vocabulary;
      const holders = [...vocabulary.signed.containing(letters), ...Array.from(vocabulary.tokensContaining(letters))];
      for (const token of new Set(holders)) put(tokens.at(token), vocabulary.rowsOfToken(token));
      // Cells that were changed or added since are in no vocabulary.
      for (const text of segment.columns[column].changedFaces()) for (const token of text.split(' ')) put(token, 1);
    }
    yield;
  }
  const asTyped = fold(typed);
  return [...found]
    .filter(([text]) => text !== asTyped)
    .map(([text, weight]) => ({ text, weight }))
    .sort((a, b) => b.weight - a.weight || (a.text < b.text ? -1 : 1))
    .slice(0, most);
}

/** The stretch of a token that has just these letters, with the signs between them; undefined if there is none. */
function partWith(token: string, letters: string): string | undefined {
  const bare = lettersOf(token);
  const at = bare.indexOf(letters);
  if (at < 0) return undefined;
  let seen = 0;
  let start = -1;
  for (let i = 0; i < token.length;) {
    const codePoint = token.codePointAt(i)!;
    const units = codePoint > 0xffff ? 2 : 1;
    if (isWordCharacter(codePoint)) {
      if (seen === at) start = i;
      seen += units;
      if (seen === at + letters.length) return token.slice(start, i + units);
    }
    i += units;
  }
  return undefined;
}
