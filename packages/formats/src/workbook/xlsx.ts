/** OOXML workbooks (ECMA-376): the rows of a sheet as the text that a person sees in its cells. */
import { LIMITS } from '@usual-needle/contract';
import { FileProblem } from '../problem.js';
import type { Archive } from './archive.js';
import { shownDate, shownNumber } from './shown.js';
import { gathered, local, read, type Handler } from './xml.js';

export interface SheetRow {
  /** The row's number, from 1. */
  readonly row: number;
  readonly cells: readonly string[];
}

export interface WorkbookSheet {
  readonly name: string;
  /** Undefined where it only rests. */
  rows(): Generator<SheetRow | undefined>;
}

/** Place of a column by its letters: `A` is 0. */
function columnOf(reference: string): number {
  let column = 0;
  for (const letter of reference) {
    const code = letter.charCodeAt(0);
    if (code < 65 || code > 90) break;
    column = column * 26 + code - 64;
  }
  return column - 1;
}

function folded(base: string, target: string): string {
  if (target.startsWith('/')) return target.slice(1);
  const parts = [...base.split('/').slice(0, -1), ...target.split('/')];
  const path: string[] = [];
  for (const part of parts) {
    if (part === '..') path.pop();
    else if (part !== '.') path.push(part);
  }
  return path.join('/');
}

/** Places in a row that are looked at: more than any program writes. */
export const WIDEST = 20_000;
/** Cell formats of one workbook, and letters that each shared text counts for besides its own. */
const FORMATS = 100_000;
const EACH_TEXT = 16;

const WORKBOOK = 'xl/workbook.xml';

export async function xlsxSheets(archive: Archive): Promise<WorkbookSheet[]> {
  const sheets: { name: string; id: string }[] = [];
  let from1904 = false;
  await read(archive.part(WORKBOOK), {
    open: (name, attributes) => {
      if (local(name) === 'sheet') {
        const id = Object.entries(attributes).find(([key]) => local(key) === 'id' && key.includes(':'))?.[1] ?? '';
        sheets.push({ name: attributes['name'] ?? '', id });
      }
      if (local(name) === 'workbookPr') from1904 = /^(?:1|true)$/.test(attributes['date1904'] ?? '');
    },
  });
  const targets = new Map<string, string>();
  await read(archive.part('xl/_rels/workbook.xml.rels'), {
    open: (name, attributes) => {
      if (local(name) === 'Relationship') targets.set(attributes['Id'], folded(WORKBOOK, attributes['Target'] ?? ''));
    },
  });
  const formats = await formatsOf(archive);
  const strings = await stringsOf(archive);
  return sheets
    .map(({ name, id }) => ({ name, part: targets.get(id) ?? '' }))
    .filter(({ part }) => archive.names.includes(part))
    .map(({ name, part }) => ({ name, rows: () => rowsOf(archive, part, strings, formats, from1904) }));
}

/** The number format of each cell format: its number, or its code if it has one of its own. */
async function formatsOf(archive: Archive): Promise<(string | number)[]> {
  const own = new Map<number, string>();
  const formats: (string | number)[] = [];
  let inCells = false;
  await read(archive.part('xl/styles.xml'), {
    open: (name, attributes) => {
      if (local(name) === 'numFmt') own.set(Number(attributes['numFmtId']), attributes['formatCode'] ?? '');
      if (local(name) === 'cellXfs') inCells = true;
      if (inCells && local(name) === 'xf') {
        const id = Number(attributes['numFmtId'] ?? 0);
        if (formats.push(own.get(id) ?? id) > FORMATS) throw new FileProblem('The workbook has too many cell formats.');
      }
    },
    close: (name) => {
      if (local(name) === 'cellXfs') inCells = false;
    },
  });
  return formats;
}

async function stringsOf(archive: Archive): Promise<string[]> {
  const strings: string[] = [];
  let text: string | undefined;
  let inText = false;
  let phonetic = false;
  let size = 0;
  await read(archive.part('xl/sharedStrings.xml'), {
    open: (name) => {
      const tag = local(name);
      if (tag === 'si') text = '';
      if (tag === 'rPh') phonetic = true;
      inText = tag === 't';
    },
    text: (piece) => {
      if (inText && !phonetic && text !== undefined) text += piece;
    },
    close: (name) => {
      const tag = local(name);
      inText = false;
      if (tag === 'rPh') phonetic = false;
      if (tag !== 'si') return;
      // A text of nothing takes room, too.
      size += text!.length + EACH_TEXT;
      if (size > LIMITS.workbookText) throw new FileProblem('The workbook holds too much text.');
      strings.push(unescaped(text!));
    },
  });
  return strings;
}

/** Letters that XML cannot hold are written `_x000D_` (ECMA-376, 22.9.2.19). */
function unescaped(text: string): string {
  return text.replace(/_x([0-9A-F]{4})_/gi, (_, code: string) => String.fromCharCode(parseInt(code, 16)));
}

function* rowsOf(
  archive: Archive,
  part: string,
  strings: readonly string[],
  formats: readonly (string | number)[],
  from1904: boolean,
): Generator<SheetRow | undefined> {
  const found: SheetRow[] = [];
  let row = 0;
  let cells: string[] = [];
  let cell: { column: number; type: string; format: string | number } | undefined;
  let text = '';
  let inValue = false;
  // How a word is read aloud stands beside it, and is no part of it.
  let phonetic = false;
  let next = 0;
  let letters = 0;
  const handler: Handler = {
    open: (name, attributes) => {
      const tag = local(name);
      if (tag === 'row') {
        row = Number(attributes['r'] ?? row + 1);
        cells = [];
        next = 0;
        letters = 0;
      } else if (tag === 'c') {
        const column = attributes['r'] === undefined ? next : columnOf(attributes['r']);
        if (column >= WIDEST)
          throw new FileProblem(`Row ${row} of the sheet has a cell that is too far to the right.`, row);
        next = column + 1;
        cell = { column, type: attributes['t'] ?? 'n', format: formats[Number(attributes['s'] ?? 0)] ?? 0 };
        text = '';
      } else if (tag === 'rPh') phonetic = true;
      else inValue = cell !== undefined && !phonetic && (tag === 'v' || tag === 't');
    },
    text: (piece) => {
      if (inValue) text += piece;
      if (text.length > LIMITS.row) throw new FileProblem(`A cell of row ${row} is too long.`, row);
    },
    close: (name) => {
      const tag = local(name);
      inValue = false;
      if (tag === 'rPh') phonetic = false;
      if (tag === 'c' && cell) {
        if (text !== '') {
          while (cells.length < cell.column) cells.push('');
          cells[cell.column] = shown(cell, text);
          letters += cells[cell.column].length;
          if (letters > LIMITS.row) throw new FileProblem(`Row ${row} has more than ${LIMITS.row} letters.`, row);
        }
        cell = undefined;
      }
      // Rows of nothing but formats are no rows.
      if (tag === 'row' && cells.some((one) => one !== '')) found.push({ row, cells });
    },
  };
  const shown = ({ type, format }: { type: string; format: string | number }, value: string): string => {
    if (type === 's') return strings[Number(value)] ?? '';
    if (type === 'str' || type === 'inlineStr') return unescaped(value);
    if (type === 'b') return value === '1' ? 'TRUE' : 'FALSE';
    if (type === 'n') return shownNumber(value, format, from1904);
    return type === 'd' ? shownDate(value, format) : value;
  };
  yield* gathered(archive.part(part), handler, found);
}
