/** The rows of a search that a screen shows at one time, with their marks. Only these are ever read out of the store. */
import { hasBit, type Segment } from '../../store/index.js';
import { LiveRows } from './live-rows.js';
import { SegmentMarks, type Mark } from './marks.js';
import type { Search } from '../search.js';
import type { RowOnShow } from './view.js';

/** A row as it stands in a window. It is the same object for each row, so what is to be kept of one is to be copied. */
export interface WindowRow {
  readonly id: number;
  /** Place in the table's own order, from 1. */
  readonly place: number;
  /** Place among all rows of the table in the order of the search, from 0. */
  readonly position: number;
  /** True if the row is a match of what was typed. */
  readonly match: boolean;
  /** True if it is in the list only because it stays there. */
  readonly left: boolean;
  /** The segment that has its cells, and its place there. */
  readonly part: Segment;
  readonly row: number;
  readonly marks: readonly Mark[];
}

/** The rows on show, in their order. */
interface List {
  rows(offset: number, limit: number): readonly (RowOnShow & { readonly left?: boolean })[];
}

const NO_MARKS: readonly Mark[] = [];

/**
 * Rows on show from `offset` on, in the order of the search, one by one; nothing where it only rests between two cells whose
 * marks may take long.
 * @param list the rows on show, if some of them stay where they were
 */
export function* windowSteps(
  search: Search,
  offset: number,
  limit: number,
  list: List = search.view,
): Generator<WindowRow | undefined> {
  const { table } = search;
  const live = LiveRows.of(table);
  const inOrder = !search.view.sorted;
  // In a sorted list the next row is mostly in another segment.
  const marksOf: (SegmentMarks | undefined)[] = [];
  let shown: { -readonly [Key in keyof WindowRow]: WindowRow[Key] } | undefined;
  for (const { segment: s, row, position, left = false } of list.rows(offset, limit)) {
    const part = table.segments[s];
    const id = part.ids[row];
    const match = hasBit(search.matches[s], row);
    let marks = NO_MARKS;
    if (match && search.leaves.length > 0) {
      const inSegment = (marksOf[s] ??= new SegmentMarks(search, part));
      if (inSegment.areQuick) marks = inSegment.of(row);
      else {
        const steps = inSegment.steps(row);
        let step = steps.next();
        for (; !step.done; step = steps.next()) yield undefined;
        marks = step.value;
      }
    }
    const place = (inOrder ? position : live.before(live.starts[s] + row)) + 1;
    if (!shown) shown = { id, place, position, match, left, part, row, marks };
    else {
      shown.id = id;
      shown.place = place;
      shown.position = position;
      shown.match = match;
      shown.left = left;
      shown.part = part;
      shown.row = row;
      shown.marks = marks;
    }
    yield shown;
  }
}

/** A row of a window by itself, with its cells. */
interface ReadRow extends Pick<WindowRow, 'id' | 'place' | 'position' | 'match' | 'left' | 'marks'> {
  /** Shown texts of the columns asked for. */
  readonly cells: readonly string[];
  /** The stored texts of cells that show another one: number among the columns asked for, and the text. */
  readonly raw: readonly (readonly [number, string])[];
}

/** Does what `windowSteps` does, all at once, and reads the cells. @param columns numbers of the columns to read */
export function windowRows(search: Search, offset: number, limit: number, columns: readonly number[]): ReadRow[] {
  const rows: ReadRow[] = [];
  for (const one of windowSteps(search, offset, limit)) {
    if (!one) continue;
    const { id, place, position, match, left, part, row, marks } = one;
    const raw: [number, string][] = [];
    const cells = columns.map((column, i) => {
      const cell = part.columns[column].cell(row);
      if (cell.shown !== cell.raw) raw.push([i, cell.raw]);
      return cell.shown;
    });
    rows.push({ id, place, position, match, left, marks, cells, raw });
  }
  return rows;
}
