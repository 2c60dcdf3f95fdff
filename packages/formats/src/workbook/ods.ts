/** OpenDocument sheets (ISO/IEC 26300): the rows of a sheet as the text that a person sees in its cells. */
import { LIMITS } from '@usual-needle/contract';
import { FileProblem } from '../problem.js';
import type { Archive } from './archive.js';
import { gathered, read, type Handler } from './xml.js';
import { WIDEST, type WorkbookSheet, type SheetRow } from './xlsx.js';

const CONTENT = 'content.xml';

/** Tells what stands in a cell and is none of its text: remarks, pictures, boxes of text. */
function isAside(name: string): boolean {
  return name === 'office:annotation' || name.startsWith('draw:');
}

/** @throws FileProblem if it is protected by a password */
export async function odsSheets(archive: Archive): Promise<WorkbookSheet[]> {
  await read(archive.part('META-INF/manifest.xml'), {
    open: (name) => {
      if (name === 'manifest:encryption-data')
        throw new FileProblem('The workbook is protected by a password. Save it without one.');
    },
  });
  const names: string[] = [];
  await read(archive.part(CONTENT), {
    open: (name, attributes) => {
      if (name === 'table:table') names.push(attributes['table:name'] ?? '');
    },
  });
  return names.map((name, i) => ({ name, rows: () => rowsOf(archive, i) }));
}

/** A row that stands there so many times. */
interface Repeated extends SheetRow {
  readonly times: number;
}

function* rowsOf(archive: Archive, sheet: number): Generator<SheetRow | undefined> {
  const found: Repeated[] = [];
  let letters = 0;
  let rowLetters = 0;
  let filled = 0;
  let at = -1;
  let row = 0;
  let cells: string[] = [];
  let repeatRow = 1;
  let repeat = 1;
  let paragraphs: string[] | undefined;
  let inParagraph = false;
  let aside = 0;
  /** The paragraph begins, or ends, in white space that was one space or none. */
  let collapsed = true;
  let endsCollapsed = false;
  let blank = 0;
  const handler: Handler = {
    open: (name, attributes) => {
      if (name === 'table:table') at++;
      if (at !== sheet) return;
      if (isAside(name)) aside++;
      switch (name) {
        case 'table:table-row':
          cells = [];
          blank = 0;
          rowLetters = 0;
          repeatRow = Number(attributes['table:number-rows-repeated'] ?? 1);
          break;
        case 'table:table-cell':
        case 'table:covered-table-cell':
          repeat = Number(attributes['table:number-columns-repeated'] ?? 1);
          paragraphs = [];
          break;
        case 'text:p':
          if (!paragraphs || aside > 0) break;
          paragraphs.push('');
          inParagraph = true;
          collapsed = true;
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
    text: (text) => addCollapsed(text),
    close: (name) => {
      if (at !== sheet) return;
      if (name === 'text:p' && aside === 0 && paragraphs) {
        if (endsCollapsed) paragraphs[paragraphs.length - 1] = paragraphs[paragraphs.length - 1].slice(0, -1);
        inParagraph = false;
        endsCollapsed = false;
      }
      if (isAside(name)) aside--;
      if ((name === 'table:table-cell' || name === 'table:covered-table-cell') && paragraphs) {
        const text = paragraphs.join('\n');
        paragraphs = undefined;
        if (text === '') {
          blank += repeat;
          return;
        }
        if (cells.length + blank + repeat > WIDEST)
          throw new FileProblem(`Row ${row + 1} of the sheet has more cells than can be read.`, row + 1);
        rowLetters += text.length * repeat;
        if (rowLetters > LIMITS.row)
          throw new FileProblem(`Row ${row + 1} has more than ${LIMITS.row} letters.`, row + 1);
        for (; blank > 0; blank--) cells.push('');
        for (let i = 0; i < repeat; i++) cells.push(text);
      }
      if (name === 'table:table-row') {
        if (cells.length > 0) {
          filled += repeatRow;
          // Some letters of a file can stand for millions of rows.
          if (filled > LIMITS.rows) throw new FileProblem(`The sheet has more than ${LIMITS.rows} rows.`, row + 1);
          letters += (rowLetters + cells.length) * repeatRow;
          if (letters > LIMITS.workbookUnpacked) throw new FileProblem('The sheet holds too much text.', row + 1);
          found.push({ row: row + 1, cells, times: repeatRow });
        }
        row += repeatRow;
      }
    },
  };
  const add = (text: string): void => {
    if (!inParagraph || !paragraphs || aside > 0) return;
    paragraphs[paragraphs.length - 1] += text;
    collapsed = false;
    endsCollapsed = false;
  };
  /** White space as it is written is one space, and none where a paragraph begins or ends (ISO/IEC 26300-1, 6.1.2). */
  const addCollapsed = (text: string): void => {
    if (!inParagraph || !paragraphs || aside > 0 || text === '') return;
    let one = text.replace(/[ \t\r\n]+/g, ' ');
    if (collapsed && one.startsWith(' ')) one = one.slice(1);
    if (one === '') return;
    paragraphs[paragraphs.length - 1] += one;
    collapsed = one.endsWith(' ');
    endsCollapsed = collapsed;
  };
  for (const one of gathered(archive.part(CONTENT), handler, found)) {
    if (!one) yield undefined;
    else for (let i = 0; i < one.times; i++) yield { row: one.row + i, cells: one.cells };
  }
}
