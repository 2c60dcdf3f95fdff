/** Writing rows that are taken out: a writer for each form, and what does not fit it. */
import { TAKE_AWAY_ROWS, type TakeOutForm } from '@usual-needle/contract';
import { writeCsv } from './csv/write.js';
import { writeJson, writeNdjson } from './json/write.js';
import { writeTakeAway } from './page/take-away.js';
import { PAGE_ROWS, writePage } from './page/write.js';
import type { Taken, Writer } from './taken.js';
import { misfit, writeWorkbook } from './workbook/write.js';

/** The writer of each form. */
export const WRITERS: Readonly<Record<TakeOutForm, Writer>> = {
  csv: writeCsv,
  json: writeJson,
  ndjson: writeNdjson,
  xlsx: writeWorkbook,
  page: writePage,
  'take-away': writeTakeAway,
};

/** Tells why rows do not fit a form, and what to do; undefined where they do. */
export function misfitOf(form: TakeOutForm, taken: Taken, withMarks: boolean): string | undefined {
  if (form === 'xlsx') return misfit(taken, withMarks);
  const { rows = 0 } = taken;
  if (form === 'take-away' && rows > TAKE_AWAY_ROWS)
    return `A take-away page has ${TAKE_AWAY_ROWS.toLocaleString('en')} rows at most; these are ${rows.toLocaleString('en')}. Lock a picker of the box, or take the rows out as CSV.`;
  if (form !== 'page' || rows <= PAGE_ROWS) return undefined;
  return `A page to print has ${PAGE_ROWS.toLocaleString('en')} rows at most; these are ${rows.toLocaleString('en')}. Narrow them, or take them out as a spreadsheet file.`;
}
