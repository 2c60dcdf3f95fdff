/**
 * Holds a table that was taken from bytes against itself: some of its cells are asked for by words of their own, and what the index
 * says of them is held against what each cell says by itself. A checksum tells that bytes are as they were written; this
 * tells that what was written is a table.
 */
import { hasBit, type Segment, type Steps, type Table } from '../store/index.js';
import { fold } from '../text/index.js';
import { SegmentAnswers } from './evaluate.js';
import { TextMatcher } from './text-matcher.js';

/** Rows of each segment that are asked about, and questions in all. */
const ROWS_ASKED = 24;
const QUESTIONS = 160;

/** Places of some rows that are there, evenly over a segment. */
function spreadRows({ rowCount, live }: Segment): number[] {
  const step = Math.max(1, Math.floor(rowCount / ROWS_ASKED));
  const rows: number[] = [];
  for (let row = 0; row < rowCount && rows.length < ROWS_ASKED; row += step) if (hasBit(live, row)) rows.push(row);
  return rows;
}

/** @returns whether every question was answered as the cells say */
export function* soundSteps(table: Table): Steps<boolean> {
  const each = Math.max(1, Math.floor(QUESTIONS / Math.max(1, table.segments.length * table.columns.length)));
  for (const segment of table.segments) {
    const rows = spreadRows(segment);
    const answers = new SegmentAnswers(segment);
    for (const [at, column] of segment.columns.entries()) {
      const words = rows
        .flatMap((row) => fold(column.cell(row).shown).split(' ').slice(-1))
        .filter((word) => word !== '');
      for (const word of new Set(words.slice(0, each))) {
        const matcher = new TextMatcher(word, 'anywhere', { case: 'ignore', accents: 'ignore' });
        const hits = answers.hits(at, matcher);
        if (rows.some((row) => matcher.test(column.cell(row)) !== (hits !== undefined && hasBit(hits, row))))
          return false;
      }
      yield;
    }
  }
  return true;
}

/** Ids and cells of some rows, evenly over the table, to be held against what they were made from. */
export function sampleRows(table: Table, most: number): { readonly id: number; readonly cells: readonly string[] }[] {
  const rows = table.segments.flatMap((segment) => spreadRows(segment).map((row) => segment.rowAt(row)));
  const step = Math.max(1, Math.ceil(rows.length / most));
  return rows.filter((_, i) => i % step === 0);
}
