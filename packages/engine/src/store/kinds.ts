/**
 * What a column holds, and how its raw cells are shown, written plainly and valued. A cell is kept as it came, as text;
 * its kind and its shown form belong to the column and can change without touching a cell.
 */
import { isBlank, MONTHS, readDate, readNumber, type DateOrder } from '../text/index.js';

export type Kind = 'text' | 'number' | 'date' | 'yes/no' | 'choice';
/** How cells of a number or date column are shown; without one, as they came. */
export type ShownForm =
  | { readonly number: { readonly decimals: number; readonly grouping: boolean } }
  | { readonly date: 'd MMM yyyy' | 'd MMMM yyyy' | 'dd/MM/yyyy' | 'MM/dd/yyyy' | 'yyyy-MM-dd' };

export interface ColumnSpec {
  readonly name: string;
  readonly kind: Kind;
  readonly shown?: ShownForm;
  /** How number-only dates of this column are to be read; year first if not said. */
  readonly dateOrder?: DateOrder;
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

function showNumber(value: number, decimals: number, grouping: boolean): string {
  const [whole, fraction] = Math.abs(value).toFixed(decimals).split('.');
  const grouped = grouping ? whole.replace(/\B(?=(?:\d{3})+$)/g, ',') : whole;
  return (value < 0 ? '-' : '') + grouped + (fraction === undefined ? '' : `.${fraction}`);
}

/** True of a column whose cells have a shown and a plain form besides what was brought in. */
export function isValued({ kind }: Pick<ColumnSpec, 'kind'>): boolean {
  return kind === 'number' || kind === 'date';
}

/** The value of a raw cell by its column's kind: a number, or days since 1970-01-01; undefined if it has none. */
export function valueOf(raw: string, column: ColumnSpec): number | undefined {
  if (column.kind === 'number') return readNumber(raw);
  if (column.kind === 'date') return readDate(raw, column.dateOrder);
  return undefined;
}

/** The cell as people see it. A cell that its kind cannot read is shown as it came. */
export function shownText(raw: string, column: ColumnSpec): string {
  if (!column.shown) return raw;
  const value = valueOf(raw, column);
  if (value === undefined) return raw;
  if ('number' in column.shown && column.kind === 'number') {
    return showNumber(value, column.shown.number.decimals, column.shown.number.grouping);
  }
  if ('date' in column.shown && column.kind === 'date') return showDate(value, column.shown.date);
  return raw;
}

/** The cell in its plain form, `1250.5` or `2026-11-18`; undefined if the kind has none or the cell cannot be read. */
export function plainText(raw: string, column: ColumnSpec): string | undefined {
  const value = valueOf(raw, column);
  if (value === undefined) return undefined;
  if (column.kind === 'date') return isoDate(value);
  return Math.abs(value) < 1e21 ? plainNumber(raw) : String(value);
}

/** From the digits as written, so that no more is lost than leading and trailing zeros. */
function plainNumber(raw: string): string {
  const match = /^([-+\u2212]?)(\d*)(?:\.(\d+))?$/.exec(raw.trim().replaceAll(',', ''))!;
  const whole = match[2].replace(/^0+(?=\d)/, '') || '0';
  const fraction = (match[3] ?? '').replace(/0+$/, '');
  const digits = fraction === '' ? whole : `${whole}.${fraction}`;
  return (match[1] === '-' || match[1] === '\u2212') && digits !== '0' ? `-${digits}` : digits;
}

/** A problem found while looking at a column: which row (from 1), and what. */
export interface KindProblem {
  readonly row: number;
  readonly message: string;
}

export interface KindGuess {
  readonly kind: Kind;
  readonly dateOrder?: DateOrder;
  readonly problems: readonly KindProblem[];
}

/** The ways in which cells of a yes/no column say the same, in lower case. */
export const ANSWERS = { yes: ['yes', 'y', 'true'], no: ['no', 'n', 'false'] } as const;

const YES_NO = new Set<string>([...ANSWERS.yes, ...ANSWERS.no]);

/** A number that could as well be a code: leading zero, plus sign, spaced or dashed digits, or more than 15 of them. */
function couldBeCode(raw: string): boolean {
  const text = raw.trim();
  return /^[-+]?0\d/.test(text) || text.startsWith('+') || text.replace(/\D/g, '').length > 15;
}

/**
 * Guesses a column's kind from its cells, carefully: one cell that does not fit keeps the column text, and so does
 * anything that looks like a code. `03/04/2026` alone cannot be told from 4 March or 3 April: the column stays text and
 * the problem says so.
 */
export function guessKind(cells: readonly string[]): KindGuess {
  const text: KindGuess = { kind: 'text', problems: [] };
  const distinct = new Map<string, number>();
  let filled = 0;
  for (let i = 0; i < cells.length; i++) {
    if (isBlank(cells[i])) continue;
    filled++;
    if (!distinct.has(cells[i])) distinct.set(cells[i], i + 1);
  }
  if (filled === 0) return text;
  const values = [...distinct.keys()];
  if (values.every((value) => YES_NO.has(value.trim().toLowerCase()))) return { kind: 'yes/no', problems: [] };
  if (values.every((value) => readNumber(value) !== undefined)) {
    return values.some(couldBeCode) ? text : { kind: 'number', problems: [] };
  }
  const shaped = values.filter((value) => /^\d{1,2}[-/.]\d{1,2}[-/.]\d{4}$/.test(value.trim()));
  const orders: DateOrder[] = shaped.length === 0 ? ['year first'] : ['day first', 'month first'];
  const fitting = orders.filter((order) => values.every((value) => readDate(value, order) !== undefined));
  if (fitting.length === 1) {
    return fitting[0] === 'year first'
      ? { kind: 'date', problems: [] }
      : { kind: 'date', dateOrder: fitting[0], problems: [] };
  }
  if (fitting.length === 2) {
    const row = distinct.get(shaped[0])!;
    const message = `${shaped[0].trim()} could be day first or month first; say which to read this column as dates`;
    return { kind: 'text', problems: [{ row, message }] };
  }
  const repeated = values.length <= 40 && filled >= values.length * 5;
  if (repeated && values.every((value) => value.length <= 40 && !/\n/.test(value)))
    return { kind: 'choice', problems: [] };
  return text;
}
