import type { Column } from '@usual-needle/contract';

const DAY_MS = 86_400_000;

/** `2026-11-18` of a day since 1970-01-01. */
export function isoDay(day: number): string {
  return new Date(day * DAY_MS).toISOString().slice(0, 10);
}

/** A day at midnight here, as a calendar has it; undefined for none. @param end of a month or a year, its last day */
export function dateOf(text: string, end: boolean): Date | undefined {
  const match = /^(\d{4})(?:-(\d{2})(?:-(\d{2}))?)?$/.exec(text);
  if (!match) return undefined;
  const [year, month, day] = [Number(match[1]), match[2], match[3]];
  const date = new Date(2000, 0, 1);
  if (day !== undefined) date.setFullYear(year, Number(month) - 1, Number(day));
  else if (!end) date.setFullYear(year, month === undefined ? 0 : Number(month) - 1, 1);
  else date.setFullYear(year, month === undefined ? 12 : Number(month), 0);
  return date;
}

/** `2026-11-18` of a day as a calendar has it. */
export function dayOf(date: Date | undefined): string {
  if (!date) return '';
  const pad = (value: number, width: number): string => String(value).padStart(width, '0');
  return `${pad(date.getFullYear(), 4)}-${pad(date.getMonth() + 1, 2)}-${pad(date.getDate(), 2)}`;
}

export interface DaySpan {
  readonly name: string;
  readonly from: string;
  readonly to: string;
}

/** Spans up to the last day there is, so that they are worth choosing however old the table is. @param last days since 1970-01-01 */
export function spansUpTo(last: number): DaySpan[] {
  const end = isoDay(last);
  return [
    { name: 'last 7 days', from: isoDay(last - 6), to: end },
    { name: 'this month', from: `${end.slice(0, 7)}-01`, to: end },
    { name: 'this year', from: `${end.slice(0, 4)}-01-01`, to: end },
  ];
}

/** A date form of a column, as the calendar has it. */
export function calendarForm(column: Column | undefined): string {
  const shown = column?.shown && 'date' in column.shown ? column.shown.date : 'yyyy-MM-dd';
  const forms = {
    'd MMM yyyy': 'd M yy',
    'd MMMM yyyy': 'd MM yy',
    'dd/MM/yyyy': 'dd/mm/yy',
    'MM/dd/yyyy': 'mm/dd/yy',
    'yyyy-MM-dd': 'yy-mm-dd',
  };
  return forms[shown];
}
