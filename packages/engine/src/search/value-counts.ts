/** What a picker offers: the values of a column, or its first letters, each with how many rows it would leave. */
import { eachBit, type Table } from '../store/index.js';
import { compareTexts } from '../order/index.js';
import { fold, isWordCharacter } from '../text/index.js';
import type { Question } from './question.js';
import { Search } from './search.js';

export interface ValueCount {
  /** Shown text; empty for blank cells. */
  readonly value: string;
  readonly rows: number;
}

/** The question without its pickers on a column: under all *other* conditions. */
function withoutPickers(question: Question, column: number): Question {
  return { ...question, pickers: question.pickers.filter((picker) => picker.column !== column) };
}

function eachShownText(search: Search, column: number, visit: (text: string, rows: number) => void): void {
  search.onShow.forEach((onShow, s) => {
    const part = search.table.segments[s].columns[column];
    const counts = new Uint32Array(part.valueCount);
    eachBit(onShow, (row) => {
      if (part.isStale(row)) visit(part.cell(row).shown, 1);
      else counts[part.codes[row]]++;
    });
    counts.forEach((rows, code) => visit(part.valueCell(code).shown, rows));
  });
}

/**
 * Values of a column in its order, those that no row on show has counted 0; texts that fold alike are one value.
 * @returns at most `most` values
 */
export function valueCounts(table: Table, question: Question, column: number, most = 1_000): ValueCount[] {
  const search = new Search(table, withoutPickers(question, column)).run();
  const values = new Map<string, { value: string; rows: number }>();
  eachShownText(search, column, (text, rows) => {
    const key = fold(text);
    const known = values.get(key);
    if (known) known.rows += rows;
    else values.set(key, { value: key === '' ? '' : text.trim(), rows });
  });
  const { order } = table.columns[column];
  const blankLast = (a: ValueCount, b: ValueCount): number =>
    (a.value === '' ? 1 : 0) - (b.value === '' ? 1 : 0) || compareTexts(a.value, b.value, order);
  return [...values.values()].sort(blankLast).slice(0, most);
}

/** Letters that cells of a column start with or contain, folded, with how many rows on show have each. */
export function letterCounts(
  table: Table,
  question: Question,
  column: number,
  position: 'starts' | 'contains',
): ValueCount[] {
  const search = new Search(table, withoutPickers(question, column)).run();
  const letters = new Map<string, number>();
  eachShownText(search, column, (text, rows) => {
    const folded = fold(text);
    const found = position === 'starts' ? [...folded].slice(0, 1) : new Set(folded);
    for (const letter of found) {
      if (isWordCharacter(letter.codePointAt(0)!)) letters.set(letter, (letters.get(letter) ?? 0) + rows);
    }
  });
  return [...letters].map(([value, rows]) => ({ value, rows })).sort((a, b) => compareTexts(a.value, b.value));
}

export interface ValueRange {
  /** Least and greatest value of the whole table: numbers, or days since 1970-01-01. */
  readonly least: number;
  readonly most: number;
  /** Rows on show in equal parts from least to most. */
  readonly bins: readonly number[];
}

/** @returns undefined if no cell of the column has a value */
export function valueRange(table: Table, question: Question, column: number, bins: number): ValueRange | undefined {
  const search = new Search(table, withoutPickers(question, column)).run();
  let least = Infinity;
  let most = -Infinity;
  const valueAt = (segment: number, row: number): number => {
    const part = table.segments[segment].columns[column];
    return part.isStale(row) ? (part.cell(row).value ?? NaN) : part.values[part.codes[row]];
  };
  const each = (rows: readonly Uint32Array[], visit: (value: number) => void): void =>
    rows.forEach((set, segment) =>
      eachBit(set, (row) => {
        const value = valueAt(segment, row);
        if (!Number.isNaN(value)) visit(value);
      }),
    );
  each(
    table.segments.map(({ live }) => live),
    (value) => {
      least = Math.min(least, value);
      most = Math.max(most, value);
    },
  );
  if (least > most) return undefined;
  const counts = new Array<number>(bins).fill(0);
  each(search.onShow, (value) => {
    counts[most === least ? 0 : Math.min(bins - 1, Math.floor(((value - least) / (most - least)) * bins))]++;
  });
  return { least, most, bins: counts };
}
