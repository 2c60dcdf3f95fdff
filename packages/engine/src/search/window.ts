/** The rows of a search that a screen shows at one time, with their marks. Only these are ever read out of the store. */
import { countBelow, hasBit } from '../store/index.js';
import { hitRows } from './evaluate.js';
import type { Search } from './search.js';
import { View } from './view.js';

/** A stretch of a cell that a keyword hit. */
export interface Mark {
  readonly column: number;
  /** UTF-16 offsets into the shown text. */
  readonly start: number;
  readonly end: number;
  /** Keyword number, from 1. */
  readonly keyword: number;
}

export interface WindowRow {
  readonly id: number;
  /** Place in the table's own order, from 1. */
  readonly place: number;
  /** Place among all rows of the table in the order of the search, from 0. */
  readonly position: number;
  /** True if the row is a match of what was typed. */
  readonly match: boolean;
  /** Shown texts of the columns asked for. */
  readonly cells: readonly string[];
  readonly marks: readonly Mark[];
}

/** Marks of one row, by column, then start, then keyword. Where two keywords overlap, both are given. */
export function marksOf(search: Search, segment: number, row: number): Mark[] {
  const marks: Mark[] = [];
  const part = search.table.segments[segment];
  for (const { plan, keyword } of search.leaves) {
    for (const column of plan.columns) {
      // The search has asked this already, and remembers.
      const hits = hitRows(part, column, plan.matcher);
      if (!hits || !hasBit(hits, row)) continue;
      const cell = part.columns[column].cell(row);
      for (const { start, end } of plan.matcher.spans(cell)) marks.push({ column, start, end, keyword });
    }
  }
  return marks.sort((a, b) => a.column - b.column || a.start - b.start || a.keyword - b.keyword);
}

/**
 * Rows on show from `offset` on, in the order of the search.
 * @param columns numbers of the columns to read
 */
export function windowRows(search: Search, offset: number, limit: number, columns: readonly number[]): WindowRow[] {
  const { table } = search;
  const before: number[] = [];
  table.segments.reduce((sum, { liveCount }) => (before.push(sum), sum + liveCount), 0);
  return new View(search).rows(offset, limit).map(({ segment: s, row, position }) => {
    const segment = table.segments[s];
    const match = hasBit(search.matches[s], row);
    return {
      id: segment.ids[row],
      place: before[s] + countBelow(segment.live, row) + 1,
      position,
      match,
      cells: columns.map((column) => segment.columns[column].cell(row).shown),
      marks: match && search.asks ? marksOf(search, s, row) : [],
    };
  });
}
