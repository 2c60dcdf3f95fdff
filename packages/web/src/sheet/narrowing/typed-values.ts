/** Days and numbers as they are typed into pickers: read as the column's cells are written, as they are shown, and in ISO form. */
import type { Column } from '@usual-needle/contract';
import { dateExtent, isoDate, shownText, writtenDigits } from '@usual-needle/engine';

/** A year, or a month of one, which stand for all of their days. */
const PART = /^\d{4}(?:-\d{1,2})?$/;

/** A day as `2026-11-18`, a year or month as `2026` or `2026-11`; empty for nothing, undefined for what is no date. */
export function typedDay(text: string, column: Column): string | undefined {
  const typed = text.trim();
  if (typed === '') return '';
  const extent = dateExtent(typed, column);
  if (!extent) return undefined;
  return PART.test(typed) ? typed.replace(/-(\d)$/, '-0$1') : isoDate(extent.first);
}

/** A number; null for nothing, undefined for what is none. */
export function typedNumber(text: string, column: Column): number | null | undefined {
  const typed = text.trim();
  if (typed === '') return null;
  const digits = writtenDigits(typed, column) ?? writtenDigits(typed.replace(/\s/g, ''), column);
  return digits === undefined || !Number.isFinite(Number(digits)) ? undefined : Number(digits);
}

/** A number as the column's cells write it, so that it is read as it was meant. */
export function writtenNumber(value: number, column: Column): string {
  return column.decimal === 'comma' ? String(value).replace('.', ',') : String(value);
}

/** Gives what is expected where a date cannot be read. @param day of the column, since 1970-01-01; undefined if it has none */
export function datesExpected(text: string, column: Column, day: number | undefined): string {
  const like = day === undefined ? '' : `“${shownText(isoDate(day), column)}”, `;
  return `“${text}” is no date that is read here; nothing was changed. Type it like ${like}2026-11-18, 2026-11 or 2026.`;
}

/** Gives what is expected where a number cannot be read. @param value of the column; undefined if it has none */
export function numbersExpected(text: string, column: Column, value: number | undefined): string {
  const like = value === undefined ? '' : ` Its cells write it like “${writtenNumber(value, column)}”.`;
  return `“${text}” is no number; nothing was changed.${like}`;
}
