import type { Column } from '@usual-needle/contract';
import { fits, isoDate, shownText, valueOf, wayOf } from '@usual-needle/engine';
import { plural } from '../../services/numbers';

/** An example of how a column's cells look, for one that cannot be read. */
const SAMPLE_DAY = 20_775;

function words(column: Column): string {
  if (column.kind === 'number')
    return `This is no number: one looks like ${column.decimal === 'comma' ? '1250,5' : '1250.5'}.`;
  if (column.kind === 'yes/no') return 'This is neither yes nor no.';
  const sample = shownText(isoDate(SAMPLE_DAY), column);
  const orders = { 'day first': '18.11.2026', 'month first': '11/18/2026', 'year first': '2026-11-18' };
  const likes = new Set([sample, orders[column.dateOrder ?? 'year first'], '2026-11-18']);
  return `This is no date: one looks like ${[...likes].join(' or ')}.`;
}

/** Why a text does not fit its column, in words, with what would; empty if it does. It is kept all the same. */
export function unfit(text: string, column: Column): string {
  const way = wayOf(column);
  if (way === undefined || text.trim() === '' || fits(text, way) || valueOf(text, column) !== undefined) return '';
  return `${words(column)} It is kept as it is.`;
}

/** Tells in words how many cells do not fit. */
export function unfitWords({ kind }: Pick<Column, 'kind'>, count: number): string {
  const is = count === 1 ? 'is' : 'are';
  const what = { date: 'no date', number: 'no number' }[kind as 'date'] ?? 'neither yes nor no';
  return `${plural(count, 'cell')} that ${is} ${what}`;
}
