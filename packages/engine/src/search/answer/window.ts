/** The rows of a search that a screen shows at one time, with their marks. Only these are ever read out of the store. */
import { hasBit, type Segment } from '../../store/index.js';
import { rememberedHits } from '../evaluate.js';
import { LiveRows } from './live-rows.js';
import type { Search } from '../search.js';
import type { RowOnShow } from './view.js';

/** A stretch of a cell that a keyword hit. */
export interface Mark {
  readonly column: number;
  /** UTF-16 offsets into the shown text. */
  readonly start: number;
  readonly end: number;
  /** Keyword number, from 1. */
  readonly keyword: number;
}

interface WindowRow {
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
  /** The stored texts of cells that show another one: number among the columns asked for, and the text. */
  readonly raw: readonly (readonly [number, string])[];
  /** True if it is in the list only because it stays there. */
  readonly left: boolean;
}

/** The rows on show, in their order. */
interface List {
  rows(offset: number, limit: number): readonly (RowOnShow & { readonly left?: boolean })[];
}

/**
 * Marks of one row, cell by cell, by column, then start, then keyword. Where two keywords overlap, both are given.
 * @param part the segment that the row is in, of the table or of a snapshot of it @param isAsked whether a column's marks are wanted
 */
export function* markSteps(
  search: Pick<Search, 'leaves'>,
  part: Segment,
  row: number,
  isAsked: (column: number) => boolean = () => true,
): Generator<void, Mark[]> {
  const marks: Mark[] = [];
  for (const { plan, keyword } of search.leaves) {
    for (const column of plan.columns) {
      if (!isAsked(column)) continue;
      // The search has asked this already, and may remember.
      const known = rememberedHits(part, column, plan.matcher);
      if (known && (!known.rows || !hasBit(known.rows, row))) continue;
      const cell = part.columns[column].cell(row);
      const spans = plan.matcher.spanSteps ? yield* plan.matcher.spanSteps(cell) : plan.matcher.spans(cell);
      for (const { start, end } of spans) marks.push({ column, start, end, keyword });
      yield;
    }
  }
  return marks.sort((a, b) => a.column - b.column || a.start - b.start || a.keyword - b.keyword);
}

/**
 * Rows on show from `offset` on, in the order of the search, one by one; nothing where it only rests between two cells whose
 * marks may take long.
 * @param columns numbers of the columns to read @param list the rows on show, if some of them stay where they were
 */
export function* windowSteps(
  search: Search,
  offset: number,
  limit: number,
  columns: readonly number[],
  list: List = search.view,
): Generator<WindowRow | undefined> {
  const { table } = search;
  const live = LiveRows.of(table);
  for (const { segment: s, row, position, left = false } of list.rows(offset, limit)) {
    const segment = table.segments[s];
    const match = hasBit(search.matches[s], row);
    let marks: Mark[] = [];
    if (match && search.asks) {
      const steps = markSteps(search, segment, row);
      let step = steps.next();
      for (; !step.done; step = steps.next()) yield undefined;
      marks = step.value;
    }
    const raw: [number, string][] = [];
    const cells = columns.map((column, i) => {
      const cell = segment.columns[column].cell(row);
      const { shown } = cell;
      if (shown !== cell.raw) raw.push([i, cell.raw]);
      return shown;
    });
    yield {
      id: segment.ids[row],
      place: live.before(live.starts[s] + row) + 1,
      position,
      match,
      cells,
      marks,
      raw,
      left,
    };
  }
}

/** Does what `windowSteps` does, all at once. */
export function windowRows(search: Search, offset: number, limit: number, columns: readonly number[]): WindowRow[] {
  return [...windowSteps(search, offset, limit, columns)].filter((row) => row !== undefined);
}
