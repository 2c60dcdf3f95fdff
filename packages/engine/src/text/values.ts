/** Numbers and dates as people write them. */

/** Order of day, month and year in dates written with numbers only. */
export type DateOrder = 'year first' | 'day first' | 'month first';

export const MONTHS = [
  'january',
  'february',
  'march',
  'april',
  'may',
  'june',
  'july',
  'august',
  'september',
  'october',
  'november',
  'december',
];

/** The sign that parts a number's whole from its fraction; the other one, a narrow or fixed space, or an apostrophe groups its digits. */
export type DecimalSign = 'point' | 'comma';

const NUMBERS: Readonly<Record<DecimalSign, RegExp>> = {
  point: /^[-+\u2212]?(?:\d{1,3}(?:,\d{3})+|\d{1,3}(?:[\u00a0\u202f']\d{3})+|\d+)(?:\.\d+)?$|^[-+\u2212]?\.\d+$/,
  comma: /^[-+\u2212]?(?:\d{1,3}(?:\.\d{3})+|\d{1,3}(?:[\u00a0\u202f']\d{3})+|\d+)(?:,\d+)?$|^[-+\u2212]?,\d+$/,
};
const GROUPS = { point: /[,\u00a0\u202f']/g, comma: /[.\u00a0\u202f']/g } as const;
const UNIT_BEFORE = /^([-+\u2212]?)(\p{Sc})[ \u00a0\u202f]?/u;
const UNIT_AFTER = /[ \u00a0\u202f]?(\p{Sc}|%)$/u;

/** The currency or per cent sign that a number is written with; empty without one. */
export function unitOf(raw: string): string {
  const text = raw.trim();
  return UNIT_BEFORE.exec(text)?.[2] ?? UNIT_AFTER.exec(text)?.[1] ?? '';
}

/** The digits of a number as written, without its groups and its unit, with a point: `-1250.50`; undefined if it is none. */
export function numberDigits(raw: string, decimal: DecimalSign = 'point'): string | undefined {
  let text = raw.trim();
  if (!NUMBERS[decimal].test(text)) {
    const bare = text.replace(UNIT_BEFORE, '$1').replace(UNIT_AFTER, '');
    if (bare === text || !NUMBERS[decimal].test(bare) || /\p{Sc}|%/u.test(bare)) return undefined;
    text = bare;
  }
  const digits = text.replace(GROUPS[decimal], '').replace('\u2212', '-').replace(/^\+/, '');
  return decimal === 'comma' ? digits.replace(',', '.') : digits;
}

/** Reads `1250.5`, `1,250.50`, `-3`, `€ 1,250`, `12 %` (as 12), or with a decimal comma; undefined for anything else. */
export function readNumber(raw: string, decimal: DecimalSign = 'point'): number | undefined {
  const digits = numberDigits(raw, decimal);
  return digits === undefined ? undefined : Number(digits);
}

/** Days since 1970-01-01 of a calendar date that exists, else undefined. Proleptic Gregorian calendar, years 1–9999. */
function dayNumber(year: number, month: number, day: number): number | undefined {
  if (year < 1 || year > 9999 || month < 1 || month > 12 || day < 1 || day > daysInMonth(year, month)) return undefined;
  const date = new Date(0);
  date.setUTCFullYear(year, month - 1, day);
  return date.getTime() / 86_400_000;
}

function daysInMonth(year: number, month: number): number {
  if (month === 2) return (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0 ? 29 : 28;
  return [4, 6, 9, 11].includes(month) ? 30 : 31;
}

/** Month number of an English month name or an abbreviation of three letters or more. */
function readMonth(name: string): number | undefined {
  const lower = name.toLowerCase();
  if (lower.length < 3) return undefined;
  const found = MONTHS.findIndex((month) => month.startsWith(lower) || (lower === 'sept' && month === 'september'));
  return found < 0 ? undefined : found + 1;
}

/**
 * Reads `2026-11-18`, `18 Nov 2026`, `Nov 18, 2026`, and number-only dates in the column's order.
 * @returns days since 1970-01-01
 */
export function readDate(raw: string, order: DateOrder = 'year first'): number | undefined {
  const text = raw.trim();
  let match = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})$/.exec(text);
  if (match) return dayNumber(+match[1], +match[2], +match[3]);
  match = /^(\d{1,2})[ -]([A-Za-z]{3,9})\.?,?[ -](\d{4})$/.exec(text);
  if (match) return dayNumber(+match[3], readMonth(match[2]) ?? 0, +match[1]);
  match = /^([A-Za-z]{3,9})\.? (\d{1,2}),? (\d{4})$/.exec(text);
  if (match) return dayNumber(+match[3], readMonth(match[1]) ?? 0, +match[2]);
  match = /^(\d{1,2})[-/.](\d{1,2})[-/.](\d{4})$/.exec(text);
  if (match && order === 'day first') return dayNumber(+match[3], +match[2], +match[1]);
  if (match && order === 'month first') return dayNumber(+match[3], +match[1], +match[2]);
  return undefined;
}

/** Words and signs that people write where there is no value. */
const NO_VALUE = /^(?:n\/?a|n\.a\.?|#n\/a|nil|null|none|unknown|not known|\?+|-+|\u2013|\u2014|\.|tbd)$/i;

/** Tells whether a cell says in words that there is no value. One that says it by being blank does not. */
export function saysNoValue(raw: string): boolean {
  return raw.length < 40 && NO_VALUE.test(raw.trim());
}

const SHORT_YEAR = /^(\d{1,2}[-/.]\d{1,2}[-/.]|\d{1,2}[ -][A-Za-z]{3,9}\.?,?[ -]|[A-Za-z]{3,9}\.? \d{1,2},? )(\d{2})$/;

/**
 * A date whose year has two digits, with all four: `18.11.26` is `18.11.2026` where the hundred years begin with 1927.
 * @returns undefined for what is no such date
 */
export function withWholeYear(raw: string, firstYear: number): string | undefined {
  const match = SHORT_YEAR.exec(raw.trim());
  if (!match) return undefined;
  const year = firstYear + ((((Number(match[2]) - firstYear) % 100) + 100) % 100);
  return `${match[1]}${year}`;
}

const ISO_NUMBER = /^[-+\u2212]?\d+(?:\.\d+)?$/;

/** The settings that tell how the numbers and dates of a column are written and shown; a `ColumnSpec` is one. */
export interface WrittenForm {
  readonly decimal?: DecimalSign;
  readonly dateOrder?: DateOrder;
  readonly shown?: { readonly number: unknown } | { readonly date: string };
}

/**
 * The digits of a number written as the column's cells are or, where that gives none, with a decimal point: without groups, as in
 * ISO 80000-1, or as the column shows its numbers. `1.250` in a column with decimal commas is 1250: it is how its cells write that.
 * @returns see `numberDigits`
 */
export function writtenDigits(raw: string, { decimal, shown }: WrittenForm): string | undefined {
  const digits = numberDigits(raw, decimal);
  if (digits !== undefined || decimal !== 'comma') return digits;
  return (shown && 'number' in shown) || ISO_NUMBER.test(raw.trim()) ? numberDigits(raw, 'point') : undefined;
}

/** Orders of the shown forms of dates that are numbers only. */
const SHOWN_ORDERS: Readonly<Record<string, DateOrder>> = { 'dd/MM/yyyy': 'day first', 'MM/dd/yyyy': 'month first' };

/** Days since 1970-01-01 of a date in ISO form (ISO 8601), as the column's cells are written, or else as they are shown. */
export function dateOf(raw: string, { dateOrder, shown }: WrittenForm): number | undefined {
  const day = readDate(raw, dateOrder);
  const order = shown && 'date' in shown ? SHOWN_ORDERS[shown.date] : undefined;
  return day === undefined && order !== undefined && order !== dateOrder ? readDate(raw, order) : day;
}

/** First and last of what a typed value stands for: the same number twice, or the days of a month. */
export interface Extent {
  readonly first: number;
  readonly last: number;
}

/** Days since 1970-01-01 of `2026`, `2026-11` or a date as `dateOf` reads it; undefined if it is none. */
export function dateExtent(typed: string, form: WrittenForm): Extent | undefined {
  const text = typed.trim();
  const part = /^(\d{4})(?:-(\d{1,2}))?$/.exec(text);
  if (!part) {
    const day = dateOf(text, form);
    return day === undefined ? undefined : { first: day, last: day };
  }
  const year = Number(part[1]);
  const month = part[2] === undefined ? undefined : Number(part[2]);
  const first = dayNumber(year, month ?? 1, 1);
  if (first === undefined) return undefined;
  return { first, last: dayNumber(year, month ?? 12, daysInMonth(year, month ?? 12))! };
}
