/** Values of comparisons and ranges, by the kind of the column: a number, a day, month or year, or a text. */
import { dayNumber, daysInMonth, readDate, readNumber } from '../text/index.js';
import type { NamedColumn } from './columns.js';
import type { Interval, Term, TextInterval } from './tree.js';

export type Comparison = '>' | '>=' | '<' | '<=' | '=' | '<>';

/** First and last of what a value stands for: the same number twice, or the days of a month. */
interface Extent {
  readonly first: number;
  readonly last: number;
}

function dateExtent(text: string, column: NamedColumn): Extent | undefined {
  const part = /^(\d{4})(?:-(\d{1,2}))?$/.exec(text);
  if (part) {
    const year = Number(part[1]);
    const month = part[2] === undefined ? undefined : Number(part[2]);
    const first = dayNumber(year, month ?? 1, 1);
    if (first === undefined) return undefined;
    return { first, last: dayNumber(year, month ?? 12, daysInMonth(year, month ?? 12))! };
  }
  const day = readDate(text, column.dateOrder);
  return day === undefined ? undefined : { first: day, last: day };
}

function extent(text: string, column: NamedColumn): Extent | undefined {
  if (column.kind === 'date') return dateExtent(text.trim(), column);
  const value = readNumber(text);
  return value === undefined ? undefined : { first: value, last: value };
}

/** True for kinds whose cells are compared as numbers or days. */
export function valued(column: NamedColumn): boolean {
  return column.kind === 'number' || column.kind === 'date';
}

/**
 * `column > value` and so on; of a number or date column `column = value`, too.
 * @returns undefined if the value cannot be read as the column's kind
 */
export function comparison(column: NamedColumn, sign: Exclude<Comparison, '<>'>, text: string): Term | undefined {
  if (!valued(column)) {
    if (sign === '=') return { type: 'text', text, where: 'whole cell' };
    const interval: TextInterval =
      sign[0] === '>' ? { low: text, aboveLow: sign === '>' } : { high: text, belowHigh: sign === '<' };
    return { type: 'text interval', interval };
  }
  const value = extent(text, column);
  if (!value) return undefined;
  const interval: Interval =
    sign === '='
      ? { low: value.first, high: value.last }
      : sign === '>'
        ? { low: value.last, aboveLow: true }
        : sign === '>='
          ? { low: value.first }
          : sign === '<'
            ? { high: value.first, belowHigh: true }
            : { high: value.last };
  return { type: 'interval', interval };
}

/** `low..high`, inclusive; a bound left out is open. @returns undefined if a value cannot be read */
export function range(column: NamedColumn, low: string | undefined, high: string | undefined): Term | undefined {
  if (!valued(column)) return { type: 'text interval', interval: { low, high } };
  const first = low === undefined ? undefined : extent(low, column);
  const last = high === undefined ? undefined : extent(high, column);
  if ((low !== undefined && !first) || (high !== undefined && !last)) return undefined;
  return { type: 'interval', interval: { low: first?.first, high: last?.last } };
}
