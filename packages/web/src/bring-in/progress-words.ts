/** The words on a file while it is looked through, and while it is sent. */
import { FINE, type Look, type Trouble } from '@usual-needle/formats';
import { counted, plural } from '../services/numbers';
import type { Progress } from './upload';
import { encodingWords, formatWords } from './words';

const MB = 1_000_000;

/** Tells how many cells and rows want a look. */
function wanting(troubles: readonly Trouble[]): string {
  const real = troubles.filter(({ what }) => !FINE.includes(what));
  const rows = real
    .filter(({ what }) => what === 'tooMany' || what === 'tooFew')
    .reduce((sum, { count }) => sum + count, 0);
  const cells = real
    .filter(({ what }) => !['tooMany', 'tooFew', 'open order', 'header'].includes(what))
    .reduce((sum, { count }) => sum + count, 0);
  const columns = real.filter(({ what }) => what === 'open order' || what === 'header').length;
  const parts = [
    cells && plural(cells, 'cell'),
    rows && plural(rows, 'row'),
    columns && plural(columns, 'column'),
  ].filter(Boolean);
  if (parts.length === 0) return '';
  const one = parts.length === 1 && cells + rows + columns === 1;
  return `${parts.join(parts.length > 2 ? ', ' : ' and ')} ${one ? 'wants' : 'want'} a look`;
}

/** @param size bytes of the file */
export function lookWords(look: Look, size: number) {
  const taken = look.columns.filter((column) => column.taken).length;
  const all = plural(look.columns.length, 'column');
  return {
    format: formatWords(look.found),
    encoding: look.found.encoding === undefined ? '' : encodingWords(look.found.encoding),
    header: look.found.header ? 'its first row' : 'no row',
    sheet: look.found.sheet ?? '',
    columns: taken === look.columns.length ? all : `${counted(taken)} of ${all}`,
    rows: `${plural(look.rows, 'row')}${look.done ? '' : ' so far'}`,
    wanting: wanting(look.troubles),
    read: `${plural(look.rows, 'row')} read · ${(look.bytes / MB).toFixed(1)} MB${look.done ? ' · every row looked at' : ''}`,
    part: look.done ? 1 : Math.min(1, look.bytes / Math.max(1, size)),
  };
}

/** @param rows how many the file has */
export function progressWords({ sent, size, seconds }: Progress, rows: number): { part: number; says: string } {
  const part = size === 0 ? 1 : sent / size;
  if (part >= 1) return { part, says: 'All of it is sent; the last rows are being made searchable' };
  const speed = seconds > 0.5 ? ` · ${counted(Math.round((rows * part) / seconds))} rows a second` : '';
  const left = part > 0.02 ? ` · ${Math.ceil((seconds * (1 - part)) / part)} s left` : '';
  return { part, says: `${Math.floor(part * 100)} % sent${speed}${left}` };
}
