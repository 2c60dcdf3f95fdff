/** OpenDocument sheets (ISO/IEC 26300): the rows of a sheet as the text that a person sees in its cells. */
import { LIMITS } from '@usual-needle/contract';
import { FileProblem } from '../problem.js';
import type { Archive } from './archive.js';
import { gathered, read, type Handler } from './xml.js';
import { WIDEST, type Sheet, type SheetRow } from './xlsx.js';

const CONTENT = 'content.xml';

/** @throws FileProblem if it is protected by a password */
export function odsSheets(archive: Archive): Sheet[] {
  read(archive.part('META-INF/manifest.xml'), {
    open: (name) => {
      if (name === 'manifest:encryption-data')
        throw new FileProblem('The workbook is protected by a password. Save it without one.');
    },
  });
  const names: string[] = [];
  read(archive.part(CONTENT), {
    open: (name, attributes) => {
      if (name === 'table:table') names.push(attributes['table:name'] ?? '');
    },
  });
  return names.map((name, i) => ({ name, rows: () => rowsOf(archive, i) }));
}

function* rowsOf(archive: Archive, sheet: number): Generator<SheetRow> {
  const found: SheetRow[] = [];
  let filled = 0;
  let at = -1;
  let row = 0;
  let cells: string[] = [];
  let repeatRow = 1;
  let repeat = 1;
  let paragraphs: string[] | undefined;
  let inParagraph = false;
  let aside = 0;
  let blank = 0;
  const handler: Handler = {
    open: (name, attributes) => {
      if (name === 'table:table') at++;
      if (at !== sheet) return;
      switch (name) {
        case 'table:table-row':
          cells = [];
          blank = 0;
          repeatRow = Number(attributes['table:number-rows-repeated'] ?? 1);
          break;
        case 'table:table-cell':
        case 'table:covered-table-cell':
          repeat = Number(attributes['table:number-columns-repeated'] ?? 1);
          paragraphs = [];
          break;
        case 'office:annotation':
          aside++;
          break;
        case 'text:p':
          if (!paragraphs || aside > 0) break;
          paragraphs.push('');
          inParagraph = true;
          break;
        case 'text:s':
          add(' '.repeat(Math.min(Number(attributes['text:c'] ?? 1), LIMITS.cell)));
          break;
        case 'text:tab':
          add('\t');
          break;
        case 'text:line-break':
          add('\n');
      }
    },
    text: (text) => add(text),
    close: (name) => {
      if (at !== sheet) return;
      if (name === 'office:annotation') aside--;
      if (name === 'text:p' && aside === 0) inParagraph = false;
      if ((name === 'table:table-cell' || name === 'table:covered-table-cell') && paragraphs) {
        const text = paragraphs.join('\n');
        paragraphs = undefined;
        if (text === '') {
          blank += repeat;
          return;
        }
        if (cells.length + blank + repeat > WIDEST)
          throw new FileProblem(`Row ${row + 1} of the sheet has more cells than can be read.`, row + 1);
        for (; blank > 0; blank--) cells.push('');
        for (let i = 0; i < repeat; i++) cells.push(text);
      }
      if (name === 'table:table-row') {
        if (cells.length > 0) {
          filled += repeatRow;
          // Some letters of a file can stand for millions of rows.
          if (filled > LIMITS.rows) throw new FileProblem(`The sheet has more than ${LIMITS.rows} rows.`, row + 1);
          for (let i = 1; i <= repeatRow; i++) found.push({ row: row + i, cells });
        }
        row += repeatRow;
      }
    },
  };
  const add = (text: string): void => {
    if (inParagraph && paragraphs && aside === 0) paragraphs[paragraphs.length - 1] += text;
  };
  yield* gathered(archive.part(CONTENT), handler, found);
}
