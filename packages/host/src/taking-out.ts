/** Rows on their way out: a snapshot, read some at a time, while the table goes on changing and others go on asking. */
import { WORKBOOK_LIMITS, type Column, type TakenFacts, type TakenRow } from '@usual-needle/contract';
import type { ColumnSpec, Snapshot } from '@usual-needle/engine';
import { inStretches } from './stretches.js';

/** Rows that are handed over at once, and UTF-16 units after which they are fewer. */
const ROWS_AT_ONCE = 2_000;
const UNITS_AT_ONCE = 512 * 1024;

export class TakingOut {
  private readonly steps: ReturnType<Snapshot['rowSteps']>;
  private isOver = false;

  constructor(
    private readonly snapshot: Snapshot,
    private readonly withMarks: boolean,
    private readonly told: Omit<TakenFacts, 'longest' | 'rows'>,
    private readonly others: () => boolean,
  ) {
    this.steps = snapshot.rowSteps(0, withMarks);
  }

  /** Gives what is known before the first row leaves. */
  async facts(): Promise<TakenFacts> {
    const longest = await inStretches(this.snapshot.longestSteps(WORKBOOK_LIMITS.cell), () => this.isOver, this.others);
    return { ...this.told, rows: this.snapshot.count, longest: longest ?? [] };
  }

  /** The next rows; none once all have left, or it was ended. */
  async next(): Promise<readonly TakenRow[]> {
    const rows: TakenRow[] = [];
    await inStretches(this.some(rows), () => this.isOver, this.others);
    return this.isOver ? [] : rows;
  }

  private *some(rows: TakenRow[]): Generator<void, void> {
    for (let units = 0; rows.length < ROWS_AT_ONCE && units < UNITS_AT_ONCE;) {
      const { value, done } = this.steps.next();
      if (done) return;
      yield;
      if (!value) continue;
      const { id, cells } = value;
      const marks = value.marks.map(({ column, start, end, keyword }) => [column, start, end, keyword] as const);
      rows.push(this.withMarks ? { id, cells, marks } : { id, cells });
      for (const cell of cells) units += cell.length;
    }
  }

  end(): void {
    this.isOver = true;
  }
}

/** Columns by their numbers, as far as they say how a cell is read and shown. */
export function toldColumns(columns: readonly ColumnSpec[], numbers: readonly number[]): Column[] {
  return numbers.map((number) => {
    const { name, kind, shown, dateOrder, decimal } = columns[number] as Column;
    return { name, kind, ...(shown && { shown }), ...(dateOrder && { dateOrder }), ...(decimal && { decimal }) };
  });
}
