/** Values of comparisons and ranges, by the kind of the column: a number, a day, month or year, or a text. */
import { dateExtent, writtenDigits, type Extent } from '../text/index.js';
import type { NamedColumn } from './columns.js';
import type { Interval, Term, TextInterval } from './tree.js';

export type Comparison = '>' | '>=' | '<' | '<=' | '=' | '<>';

function extent(text: string, column: NamedColumn): Extent | undefined {
  if (column.kind === 'date') return dateExtent(text, column);
  const digits = writtenDigits(text, column);
  return digits === undefined ? undefined : { first: Number(digits), last: Number(digits) };
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
