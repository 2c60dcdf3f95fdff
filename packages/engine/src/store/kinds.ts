/**
 * The kinds of columns, and how its raw cells are shown, written plainly and valued. A cell is kept as it came, as text;
 * its kind and its shown form belong to the column and can change without touching a cell.
 */
import { dateOf, MONTHS, writtenDigits, type DateOrder, type DecimalSign } from '../text/index.js';
import type { TextPool } from './text-pool.js';

export type Kind = 'text' | 'number' | 'date' | 'yes/no' | 'choice';
/** How cells of a number or date column are shown; without one, as they came. */
type ShownForm =
  | { readonly number: { readonly decimals: number; readonly grouping: boolean } }
  | { readonly date: 'd MMM yyyy' | 'd MMMM yyyy' | 'dd/MM/yyyy' | 'MM/dd/yyyy' | 'yyyy-MM-dd' };

export interface ColumnSpec {
  readonly name: string;
  /** Names it had before. */
  readonly formerly?: readonly string[];
  readonly kind: Kind;
  readonly shown?: ShownForm;
  /** How number-only dates of this column are to be read; year first if not said. */
  readonly dateOrder?: DateOrder;
  /** The decimal sign of this number column's cells; a point if not said. */
  readonly decimal?: DecimalSign;
  /** Custom order of a choice column's values. */
  readonly order?: readonly string[];
}

const pad = (value: number, width: number): string => String(value).padStart(width, '0');

/** `2026-11-18` of a day number. */
export function isoDate(day: number): string {
  return showDate(day, 'yyyy-MM-dd');
}

function showDate(day: number, form: string): string {
  const date = new Date(day * 86_400_000);
  const [year, month, dayOfMonth] = [date.getUTCFullYear(), date.getUTCMonth(), date.getUTCDate()];
  const name = MONTHS[month][0].toUpperCase() + MONTHS[month].slice(1);
  switch (form) {
    case 'd MMM yyyy':
      return `${dayOfMonth} ${name.slice(0, 3)} ${year}`;
    case 'd MMMM yyyy':
      return `${dayOfMonth} ${name} ${year}`;
    case 'dd/MM/yyyy':
      return `${pad(dayOfMonth, 2)}/${pad(month + 1, 2)}/${pad(year, 4)}`;
    case 'MM/dd/yyyy':
      return `${pad(month + 1, 2)}/${pad(dayOfMonth, 2)}/${pad(year, 4)}`;
    default:
      return `${pad(year, 4)}-${pad(month + 1, 2)}-${pad(dayOfMonth, 2)}`;
  }
}

/**
 * A number's digits rounded to so many decimals, half away from zero. By the digits as written, so that none is lost however
 * many there are. @returns undefined where rounding would leave nothing of it
 */
function showNumber(plain: string, decimals: number, grouping: boolean): string | undefined {
  const negative = plain.startsWith('-');
  const [whole, fraction = ''] = plain.replace('-', '').split('.');
  const kept = whole + fraction.slice(0, decimals).padEnd(decimals, '0');
  const digits = fraction.charAt(decimals) >= '5' ? String(BigInt(kept) + 1n) : kept;
  const padded = digits.padStart(decimals + 1, '0');
  if (/^0*$/.test(digits) && plain !== '0') return undefined;
  const shownWhole = padded.slice(0, padded.length - decimals);
  const grouped = grouping ? shownWhole.replace(/\B(?=(?:\d{3})+$)/g, ',') : shownWhole;
  return (negative ? '-' : '') + grouped + (decimals === 0 ? '' : `.${padded.slice(-decimals)}`);
}

/** True of a column whose cells have a shown and a plain form besides what was brought in. */
export function isValued({ kind }: Pick<ColumnSpec, 'kind'>): boolean {
  return kind === 'number' || kind === 'date';
}

/** The value of a raw cell by its column's kind: a number, or days since 1970-01-01; undefined if it has none. */
export function valueOf(raw: string, column: ColumnSpec): number | undefined {
  if (column.kind === 'date') return dateOf(raw, column);
  const digits = column.kind === 'number' ? writtenDigits(raw, column) : undefined;
  return digits === undefined ? undefined : Number(digits);
}

/** The value of each raw cell; NaN of one that has none. */
export function valuesOf(texts: TextPool, column: ColumnSpec): Float64Array {
  const values = new Float64Array(texts.size).fill(NaN);
  if (isValued(column)) for (let i = 0; i < values.length; i++) values[i] = valueOf(texts.at(i), column) ?? NaN;
  return values;
}

/** The cell as people see it. A cell that its kind cannot read is shown as it came. */
export function shownText(raw: string, column: ColumnSpec): string {
  if (!column.shown) return raw;
  const value = valueOf(raw, column);
  if (value === undefined) return raw;
  if ('number' in column.shown && column.kind === 'number') {
    return showNumber(plainNumber(raw, column), column.shown.number.decimals, column.shown.number.grouping) ?? raw;
  }
  if ('date' in column.shown && column.kind === 'date') return showDate(value, column.shown.date);
  return raw;
}

/** The cell in its plain form, `1250.5` or `2026-11-18`; undefined if the kind has none or the cell cannot be read. */
export function plainText(raw: string, column: ColumnSpec): string | undefined {
  const value = valueOf(raw, column);
  if (value === undefined) return undefined;
  if (column.kind === 'date') return isoDate(value);
  return plainNumber(raw, column);
}

/** Writes a number plainly, from its digits as written, so that no more is lost than leading and trailing zeros. */
function plainNumber(raw: string, column: ColumnSpec): string {
  const match = /^(-?)(\d*)(?:\.(\d+))?$/.exec(writtenDigits(raw, column)!)!;
  const whole = match[2].replace(/^0+(?=\d)/, '') || '0';
  const fraction = (match[3] ?? '').replace(/0+$/, '');
  const digits = fraction === '' ? whole : `${whole}.${fraction}`;
  return match[1] === '-' && digits !== '0' ? `-${digits}` : digits;
}

/** Tells whether two specs read, show and order cells alike; then only the name differs, if anything does. */
export function sameCells(a: ColumnSpec, b: ColumnSpec): boolean {
  const cells = ({ kind, shown, dateOrder, decimal, order }: ColumnSpec): string =>
    JSON.stringify([kind, shown ?? null, dateOrder ?? null, decimal ?? null, order ?? null]);
  return cells(a) === cells(b);
}
