/** A workbook's number as a person sees it there, by its number format (ECMA-376, 18.8.30). */
import { format as formatted, getFormatFromId, isDateFormat } from 'numfmt';

/** Formats by number that show a date as the reader's machine is set to: here, as the standard writes it (ISO 8601). */
const LOCAL: Readonly<Record<number, string>> = { 14: 'yyyy-mm-dd', 22: 'yyyy-mm-dd hh:mm' };

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
    return formatted(code, from1904 && isDateFormat(code) ? value + 1462 : value, { throws: true }).trim();
  } catch {
    return raw;
  }
}

/** Without a format the digits are as they are stored, but for what binary fractions add at their end. */
function plain(raw: string, value: number): string {
  if (!/[eE]|\.\d{12,}/.test(raw)) return raw;
  const rounded = Number(value.toPrecision(15));
  return Math.abs(rounded) >= 1e21
    ? String(rounded)
    : rounded.toLocaleString('en', { useGrouping: false, maximumFractionDigits: 20 });
}
