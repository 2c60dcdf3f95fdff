/**
 * Holds a table that was taken from bytes against itself: some of its cells are asked for by words of their own, and what the index
 * says of them is held against what each cell says by itself. A checksum tells that bytes are as they were written; this
 * tells that what was written is a table.
 */
import type { Steps } from '../steps.js';
import { hasRow, type Segment, type Table } from '../store/index.js';
import { fold } from '../text/index.js';
import { SegmentAnswers } from './evaluate.js';
import { TextMatcher } from './matchers/text-matcher.js';

/** Rows that are looked at in all, at least of each segment, and questions in all. */
const ROWS_ASKED = 400;
const ROWS_OF_EACH = 24;
const QUESTIONS = 320;

/** Numbers below 1 that follow no pattern, the same ones each time: rows that repeat at regular distances are all met. */
function* scattered(): Generator<number> {
  for (let state = 1; ; state = (state * 48_271) % 0x7fffffff) yield state / 0x7fffffff;
}

/** Places of some rows that are there, one of each stretch of a segment. */
function spreadRows(table: Table, { rowCount, live }: Segment, random: Generator<number>): number[] {
  const stretches = Math.min(rowCount, Math.max(ROWS_OF_EACH, Math.ceil(ROWS_ASKED / table.segments.length)));
  const rows: number[] = [];
  for (let i = 0; i < stretches; i++) {
    const row = Math.floor(((i + (random.next().value as number)) * rowCount) / stretches);
    if (hasRow(live, row)) rows.push(row);
  }
  return rows;
}

/** @returns whether every question was answered as the cells say */
export function* soundSteps(table: Table): Steps<boolean> {
  const each = Math.max(1, Math.floor(QUESTIONS / Math.max(1, table.segments.length * table.columns.length)));
  const random = scattered();
  for (const segment of table.segments) {
    const rows = spreadRows(table, segment, random);
    const answers = new SegmentAnswers(segment);
    for (const [at, column] of segment.columns.entries()) {
      const words = rows.flatMap((row) => {
        const all = fold(column.cell(row).shown).split(' ');
        const word = all[Math.floor((random.next().value as number) * all.length)];
        return word === '' ? [] : [word];
      });
      for (const word of [...new Set(words)].slice(0, each)) {
        const matcher = new TextMatcher(word, 'anywhere', { case: 'ignore', accents: 'ignore' });
        const hits = answers.hits(at, matcher);
        if (rows.some((row) => matcher.test(column.cell(row)) !== (hits !== undefined && hasRow(hits, row))))
          return false;
      }
      yield;
    }
  }
  return true;
}

/** Ids and cells of some rows, evenly over the table, to be held against what they were made from. */
export function sampleRows(table: Table, most: number): { readonly id: number; readonly cells: readonly string[] }[] {
  const random = scattered();
  const rows = table.segments.flatMap((segment) => spreadRows(table, segment, random).map((row) => segment.rowAt(row)));
  const step = Math.max(1, Math.ceil(rows.length / most));
  return rows.filter((_, i) => i % step === 0);
}
