/** A workbook's number as a person sees it there, by its number format (ECMA-376, 18.8.30). */
import { format as formatted, getFormatFromId, isDateFormat } from 'numfmt';

/** Formats by number that show a date as the reader's machine is set to: here, as the standard writes it (ISO 8601). */
const LOCAL: Readonly<Record<number, string>> = { 14: 'yyyy-mm-dd', 22: 'yyyy-mm-dd hh:mm' };

/** A time that has gone by, which begins at no date. */
const ELAPSED = /\[[hms]+\]/i;
/** Day 0 of a workbook, in days since 1970-01-01. */
const DAY_0 = -25_569;

const codes = new Map<string | number, string>();

function codeOf(format: string | number): string {
  let code = codes.get(format);
  if (code === undefined) {
    code = typeof format === 'string' ? format : (LOCAL[format] ?? getFormatFromId(format));
    if (codes.size > 10_000) codes.clear();
    codes.set(format, code);
  }
  return code;
}

/**
 * @param raw the number as it is stored
 * @param from1904 whether days are counted from 1904 on, not 1900
 */
export function shownNumber(raw: string, format: string | number, from1904: boolean): string {
  const code = codeOf(format);
  const value = Number(raw);
  if (Number.isNaN(value)) return raw;
  if (code.toLowerCase() === 'general') return plain(raw, value);
  try {
    // Between the two beginnings lie four years and a day.
    return formatted(code, from1904 && isDateFormat(code) && !ELAPSED.test(code) ? value + 1462 : value, {
      throws: true,
    }).trim();
  } catch {
    return raw;
  }
}

/** A cell that is stored as a date (ISO 8601): as its format shows it, or as it is stored. */
export function shownDate(raw: string, format: string | number): string {
  const code = codeOf(format);
  const time = Date.parse(/T/.test(raw) ? `${raw.replace(/Z$/, '')}Z` : raw);
  if (Number.isNaN(time) || !isDateFormat(code)) return raw.replace(/T00:00(?::00(?:\.0+)?)?Z?$/, '').replace('T', ' ');
  return shownNumber(String(time / 86_400_000 - DAY_0), format, false);
}

/** Shows a number without a format: its digits as they are stored, but for what binary fractions add at their end. */
function plain(raw: string, value: number): string {
  if (!/[eE]|\.\d{12,}/.test(raw)) return raw;
  const rounded = Number(value.toPrecision(15));
  return Math.abs(rounded) >= 1e21
    ? String(rounded)
    : rounded.toLocaleString('en', { useGrouping: false, maximumFractionDigits: 20 });
}
