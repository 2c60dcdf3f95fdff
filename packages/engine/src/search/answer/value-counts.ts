/** The choices that a picker offers: the values of a column, or its first letters, each with how many rows it would leave. */
import { eachBit, hasBit, type Table } from '../../store/index.js';
import { compareTexts } from '../../order/index.js';
import { fold, isWordCharacter, TextMap } from '../../text/index.js';
import type { Question } from '../question.js';
import { Search } from '../search.js';

interface ValueCount {
  /** Shown text; empty for blank cells. */
  readonly value: string;
  readonly rows: number;
}

/** The search that a picker on a column offers from: under all *other* conditions. Run it before it is counted. */
export function offering(table: Table, question: Question, column: number): Search {
  return new Search(table, { ...question, pickers: question.pickers.filter((picker) => picker.column !== column) });
}

/** The rows that there are for whoever asks: those of a search that finds all of them; without one, every row. */
type There = Search | undefined;

function thereIn(search: Search, there: There): readonly Uint32Array[] {
  return there ? there.onShow : search.table.segments.map(({ live }) => live);
}

/** Visits the shown texts that rows there are have in a column, with how many of them are on show. */
function eachShownText(
  search: Search,
  column: number,
  visit: (text: string, rows: number) => void,
  there?: There,
): void {
  const all = thereIn(search, there);
  search.onShow.forEach((onShow, s) => {
    const { columns } = search.table.segments[s];
    const part = columns[column];
    const counts = new Uint32Array(part.valueCount);
    const held = new Uint8Array(part.valueCount);
    eachBit(all[s], (row) => {
      const shown = hasBit(onShow, row) ? 1 : 0;
      if (part.isStale(row)) return visit(part.cell(row).shown, shown);
      held[part.codes[row]] = 1;
      counts[part.codes[row]] += shown;
    });
    counts.forEach((rows, code) => {
      if (held[code] === 1) visit(part.valueCell(code).shown, rows);
    });
  });
}

interface ValueList {
  readonly values: ValueCount[];
  /** How many values there are in all that hold the text asked for. */
  readonly count: number;
}

/** Most values given at a time. */
const VALUES_AT_A_TIME = 1_000;

/**
 * Values of a column in its order, those that no row on show has counted 0; texts that fold alike are one value.
 * @param search see `offering`
 * @param holding only values that hold this text, case and accents ignored
 * @param offset how many of the first to pass over
 * @param there a search that finds all rows that there are for whoever asks, if those are not all
 */
export function valueCounts(
  search: Search,
  column: number,
  { holding = '', offset = 0 }: { readonly holding?: string; readonly offset?: number } = {},
  there?: There,
): ValueList {
  const held = fold(holding);
  const values = new TextMap<{ value: string; rows: number }>();
  eachShownText(
    search,
    column,
    (text, rows) => {
      const key = fold(text);
      if (!key.includes(held)) return;
      const known = values.get(key);
      if (known) known.rows += rows;
      else values.set(key, { value: key === '' ? '' : text.trim(), rows });
    },
    there,
  );
  const { order } = search.table.columns[column];
  const blankLast = (a: ValueCount, b: ValueCount): number =>
    (a.value === '' ? 1 : 0) - (b.value === '' ? 1 : 0) || compareTexts(a.value, b.value, order);
  const sorted = [...values.values()].sort(blankLast);
  return { values: sorted.slice(offset, offset + VALUES_AT_A_TIME), count: sorted.length };
}

/** Letters that cells of a column start with or contain, folded, with how many rows on show have each. @param search see `offering` */
export function letterCounts(search: Search, column: number, position: 'starts' | 'contains'): ValueCount[] {
  const letters = new Map<string, number>();
  eachShownText(search, column, (text, rows) => {
    const folded = fold(text);
    const found = position === 'starts' ? [...folded].slice(0, 1) : new Set(folded);
    for (const letter of found) {
      if (rows > 0 && isWordCharacter(letter.codePointAt(0)!)) letters.set(letter, (letters.get(letter) ?? 0) + rows);
    }
  });
  return [...letters].map(([value, rows]) => ({ value, rows })).sort((a, b) => compareTexts(a.value, b.value));
}

interface ValueRange {
  /** Least and greatest value of all rows that there are: numbers, or days since 1970-01-01. */
  readonly least: number;
  readonly most: number;
  /** Rows on show in equal parts from least to most. */
  readonly bins: readonly number[];
}

/** @param search see `offering` @returns undefined if no cell of the column has a value */
export function valueRange(search: Search, column: number, bins: number, there?: There): ValueRange | undefined {
  const { segments } = search.table;
  let least = Infinity;
  let most = -Infinity;
  const valueAt = (segment: number, row: number): number => {
    const part = segments[segment].columns[column];
    return part.isStale(row) ? (part.cell(row).value ?? NaN) : part.values[part.codes[row]];
  };
  const each = (rows: readonly Uint32Array[], visit: (value: number) => void): void =>
    rows.forEach((set, segment) =>
      eachBit(set, (row) => {
        const value = valueAt(segment, row);
        if (!Number.isNaN(value)) visit(value);
      }),
    );
  each(thereIn(search, there), (value) => {
    least = Math.min(least, value);
    most = Math.max(most, value);
  });
  if (least > most) return undefined;
  const counts = new Array<number>(bins).fill(0);
  each(search.onShow, (value) => {
    counts[most === least ? 0 : Math.min(bins - 1, Math.floor(((value - least) / (most - least)) * bins))]++;
  });
  return { least, most, bins: counts };
}
