/** Values of a table that examples can be made of, found among its first rows. */
import type { Column } from '@usual-needle/contract';

/** A row as it is shown: cells by the names of their columns. */
export type ShownRow = ReadonlyMap<string, string>;

/** A cell that serves as an example, and how its column is named in front of a colon. */
interface CribValue {
  readonly scope: string;
  readonly cell: string;
}

export interface CribValues {
  /** Two words that stand side by side in a cell of a column that is searched. */
  readonly words: readonly [string, string] | undefined;
  /** A word of another row. */
  readonly other: string | undefined;
  /** Words that cells begin with, and end with. */
  readonly first: string | undefined;
  readonly last: string | undefined;
  /** A short cell, best of a choice, a number, a date, as they are shown. */
  readonly choice: CribValue | undefined;
  readonly number: CribValue | undefined;
  readonly date: CribValue | undefined;
  /** A column that has blank cells and filled ones. */
  readonly partly: string | undefined;
}

const WORD = /^\p{L}{4,20}$/u;
const FIRST_WORD = /^\p{L}{3,20}(?!\p{L})/u;
const LAST_WORD = /(?<!\p{L})\p{L}{3,20}$/u;
/** Letters of a cell that serves as an example; and those at the end of a cell that its last word is looked for in. */
const MOST_LETTERS = 30;

/** The name of a column before a colon: its first word where that is enough, else the whole of it, in quotes if need be. */
export function scopeOf(name: string, columns: readonly Pick<Column, 'name'>[]): string {
  const [first] = name.split(/[^\p{L}\p{N}]/u, 1);
  const begins = (one: Pick<Column, 'name'>): boolean => one.name.toLowerCase().startsWith(first.toLowerCase());
  if (first.length > 1 && columns.filter(begins).length === 1) return first.toLowerCase();
  return /^[\p{L}\p{N}]+$/u.test(name) ? name : `"${name.replaceAll('"', '\\"')}"`;
}

/** A text as a term: in quotes where signs or spaces in it would mean something. */
export function termOf(text: string): string {
  return /^[\p{L}\p{N}]+$/u.test(text) ? text : `"${text.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`;
}

function pairIn(cell: string): readonly [string, string] | undefined {
  const words = cell.split(' ');
  const at = words.findIndex((word, i) => WORD.test(word) && WORD.test((words[i + 1] ?? '').replace(/[,;.]$/, '')));
  return at < 0 ? undefined : [words[at].toLowerCase(), words[at + 1].replace(/[,;.]$/, '').toLowerCase()];
}

export function cribValues(
  rows: readonly ShownRow[],
  columns: readonly Column[],
  isSearched: (column: Column) => boolean,
): CribValues {
  const searched = columns.filter(
    (column) => isSearched(column) && (column.kind === 'text' || column.kind === 'choice'),
  );
  const cellsOf = ({ name }: Column): string[] => rows.map((row) => row.get(name) ?? '');
  // Column by column, as they stand: what a table is about mostly comes first.
  const pairs = searched.flatMap(({ name }) => rows.flatMap((row) => pairIn(row.get(name) ?? '') ?? []));
  const words = pairs.length > 1 ? ([pairs[0], pairs[1]] as const) : undefined;
  const firstOf = (kind: Column['kind'], fits: (cell: string) => boolean): CribValue | undefined => {
    for (const column of columns)
      for (const cell of column.kind === kind ? cellsOf(column) : [])
        if (cell.length < MOST_LETTERS && fits(cell)) return { scope: scopeOf(column.name, columns), cell };
    return undefined;
  };
  const wordAt = (place: RegExp, of: (cell: string) => string): string | undefined =>
    searched
      .flatMap((column) => cellsOf(column).flatMap((cell) => place.exec(of(cell))?.[0] ?? []))
      .at(0)
      ?.toLowerCase();
  const partly = columns.find((column) => {
    const blank = cellsOf(column).filter((cell) => cell.trim() === '').length;
    return blank > 0 && blank < rows.length;
  });
  return {
    words,
    other: pairs.find((word) => !words?.includes(word)),
    first: wordAt(FIRST_WORD, (cell) => cell),
    last: wordAt(LAST_WORD, (cell) => cell.slice(-MOST_LETTERS)),
    choice: firstOf('choice', (cell) => cell !== '') ?? firstOf('text', (cell) => /^\p{L}+$/u.test(cell)),
    number: firstOf('number', (cell) => /\d/.test(cell)),
    date: firstOf('date', (cell) => /\d/.test(cell)),
    partly: partly && scopeOf(partly.name, columns),
  };
}
