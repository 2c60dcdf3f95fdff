/** The marks of rows of one segment: where the keywords of a search hit. What the search knows of the rows is looked up once for all of them. */
import { hasRow, type RowSet, type Segment } from '../../store/index.js';
import { StepMeter, type Steps } from '../../steps.js';
import { rememberedHits } from '../evaluate.js';
import type { Matcher } from '../matchers/matcher.js';
import type { Search } from '../search.js';

/** A stretch of a cell that a keyword hit. */
export interface Mark {
  readonly column: number;
  /** UTF-16 offsets into the shown text. */
  readonly start: number;
  readonly end: number;
  /** Keyword number, from 1. */
  readonly keyword: number;
}

/** Letters that are read in one step, a cell as many besides. */
const A_STEP = 1 << 14;
const A_CELL = 32;
/** Letters of a cell that is soon read. */
const SHORT = 1_000;

/** A column that a keyword may have hit in. */
interface Place {
  readonly column: number;
  readonly keyword: number;
  readonly matcher: Matcher;
  /** Rows that it hits in, where the search remembers them; undefined where each is to be asked. */
  readonly rows: RowSet | undefined;
}

const inOrder = (a: Mark, b: Mark): number => a.column - b.column || a.start - b.start || a.keyword - b.keyword;

export class SegmentMarks {
  private readonly places: readonly Place[];
  /** True if no cell is so long, and no matcher such, that a row's marks might take long: then `of` gives them. */
  readonly areQuick: boolean;
  private readonly meter = new StepMeter(A_STEP);

  /** @param part the segment, of the table or of a snapshot of it @param isAsked whether a column's marks are wanted */
  constructor(
    { leaves }: Pick<Search, 'leaves'>,
    private readonly part: Segment,
    isAsked: (column: number) => boolean = () => true,
  ) {
    const places: Place[] = [];
    for (const { plan, keyword } of leaves) {
      const { matcher } = plan;
      for (const column of plan.columns) {
        if (!isAsked(column)) continue;
        const known = rememberedHits(part, column, matcher);
        // Nothing hits in a column that the search has asked and found nothing in.
        if (!known || known.rows) places.push({ column, keyword, matcher, rows: known?.rows });
      }
    }
    this.places = places;
    this.areQuick = places.every(
      ({ matcher, column }) => matcher.spanSteps === undefined && part.columns[column].longest <= SHORT,
    );
  }

  /** Does what `steps` does, at once. */
  of(row: number): Mark[] {
    const marks: Mark[] = [];
    for (const { column, keyword, matcher, rows } of this.places) {
      if (rows && !hasRow(rows, row)) continue;
      for (const { start, end } of matcher.spans(this.part.columns[column].cell(row)))
        marks.push({ column, start, end, keyword });
    }
    return marks.length > 1 ? marks.sort(inOrder) : marks;
  }

  /** Marks of one row, by column, then start, then keyword. Where two keywords overlap, both are given. */
  *steps(row: number): Steps<Mark[]> {
    const marks: Mark[] = [];
    for (const { column, keyword, matcher, rows } of this.places) {
      if (rows && !hasRow(rows, row)) continue;
      const cell = this.part.columns[column].cell(row);
      if (this.meter.fills(cell.raw.length + A_CELL)) yield;
      const spans = matcher.spanSteps ? yield* matcher.spanSteps(cell) : matcher.spans(cell);
      for (const { start, end } of spans) marks.push({ column, start, end, keyword });
    }
    return marks.length > 1 ? marks.sort(inOrder) : marks;
  }
}
