/** Terms about a cell's value or its lack of one: intervals, `<blank>`, `<filled>`, and what nothing can match. They draw no marks. */
import { compareTexts } from '../../order/index.js';
import type { Interval, TextInterval } from '../../notation/index.js';
import { type Bits, type Cell, type ColumnSegment } from '../../store/index.js';
import type { Span } from '../../text/index.js';
import { judgeEach, NO_FILTER, type Matcher } from './matcher.js';

abstract class ValueMatcher implements Matcher {
  abstract readonly key: string;
  readonly filter = NO_FILTER;
  abstract test(cell: Cell): boolean;

  spans(): Span[] {
    return [];
  }
}

export class BlankMatcher extends ValueMatcher {
  readonly key = 'blank';

  test(cell: Cell): boolean {
    return cell.blank;
  }

  indexedRows(column: ColumnSegment): Bits {
    return column.blankRows;
  }
}

export class FilledMatcher extends ValueMatcher {
  readonly key = 'filled';

  test(cell: Cell): boolean {
    return !cell.blank;
  }

  indexedRows(column: ColumnSegment): Bits {
    return column.filledRows;
  }
}

export class NothingMatcher extends ValueMatcher {
  readonly key = 'nothing';

  test(): boolean {
    return false;
  }

  judge(_: ColumnSegment, asked: Uint8Array): void {
    asked.fill(0);
  }
}

export class IntervalMatcher extends ValueMatcher {
  readonly key: string;

  constructor(private readonly interval: Interval) {
    super();
    // Not as JSON, which writes every number that is too large alike.
    const { low, high, aboveLow, belowHigh } = interval;
    this.key = `interval ${low} ${aboveLow} ${high} ${belowHigh}`;
  }

  private holds(value: number): boolean {
    const { low = -Infinity, high = Infinity, aboveLow, belowHigh } = this.interval;
    return (aboveLow ? value > low : value >= low) && (belowHigh ? value < high : value <= high);
  }

  test(cell: Cell): boolean {
    const { value } = cell;
    return value !== undefined && this.holds(value);
  }

  judge({ values }: ColumnSegment, asked: Uint8Array): void {
    judgeEach(asked, (value) => this.holds(values[value]));
  }
}

export class TextIntervalMatcher extends ValueMatcher {
  readonly key: string;

  constructor(private readonly interval: TextInterval) {
    super();
    this.key = `text interval ${JSON.stringify(interval)}`;
  }

  test(cell: Cell): boolean {
    if (cell.blank) return false;
    const { low, high, aboveLow, belowHigh } = this.interval;
    const compare = (bound: string): number => compareTexts(cell.shown, bound, cell.column.order);
    if (low !== undefined && compare(low) < (aboveLow ? 1 : 0)) return false;
    return high === undefined || compare(high) <= (belowHigh ? -1 : 0);
  }
}
