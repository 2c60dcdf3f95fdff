/**
 * A spreadsheet file (ECMA-376), one sheet: numbers and dates of columns of those kinds are such in it, all else is text and never a
 * formula. The package writes it as a stream, but for cells that are partly in bold: those it can only hold all at once.
 */
import { valueOf } from '@usual-needle/engine';
import { WORKBOOK_LIMITS, type Column, type MarkTuple, type TakenRow } from '@usual-needle/contract';
import { writeXlsx, writeXlsxStream, type Cell, type CellValue, type ColumnDef } from 'hucre/xlsx';
import { markedPieces } from '../marked-pieces.js';
import type { Taken, Writer } from '../taken.js';

/** Rows that can have hits in bold. */
export const BOLD_ROWS = 20_000;

/** Digits of a number that a spreadsheet program keeps; one with more stays text, so that none is lost. */
const DIGITS = 15;
const DAY_MS = 86_400_000;
/** The first day that spreadsheet programs agree about, 1 March 1900, in days since 1970-01-01. */
const FIRST_DAY = -25_508;
/** Pixels of a column that are no letter's, and those of a letter. */
const PADDING = 5;
const LETTER = 7;
const WIDEST = 255;
/** Letters that a sheet's name may have, and those that it may not. */
const NAME = 31;
const NOT_IN_NAMES = /[\\/?*[\]:\p{Cc}]/gu;

/** A text in which nothing is taken for a sign that is written by its number (ECMA-376, ST_Xstring); those the package writes so itself. */
function literal(text: string): string {
  return text.replace(/_(?=x[\da-f]{4}_)/gi, '_x005F_');
}

/** A cell by its column's kind; as text where that has no value for it, or would lose some of it. */
function valueIn(text: string, column: Column): CellValue {
  if (text === '') return null;
  const value = column.kind === 'number' || column.kind === 'date' ? valueOf(text, column) : undefined;
  if (value === undefined) return literal(text);
  if (column.kind === 'date') return value >= FIRST_DAY ? new Date(value * DAY_MS) : literal(text);
  return text.replace(/\D/g, '').replace(/^0+/, '').length > DIGITS ? literal(text) : value;
}

function formatOf({ kind, shown }: Column): string | undefined {
  if (shown && 'number' in shown) {
    const { decimals, grouping } = shown.number;
    return `${grouping ? '#,##0' : '0'}${decimals > 0 ? `.${'0'.repeat(decimals)}` : ''}`;
  }
  if (shown && 'date' in shown) return shown.date.toLowerCase();
  return kind === 'date' ? 'yyyy-mm-dd' : undefined;
}

function columnsOf({ columns, widths = [] }: Taken, isNamed: boolean): ColumnDef[] {
  return columns.map((column, i) => {
    const numFmt = formatOf(column);
    const width = widths[i] === undefined ? undefined : Math.min(WIDEST, Math.max(1, (widths[i] - PADDING) / LETTER));
    return {
      ...(isNamed && { header: literal(column.name) }),
      ...(numFmt !== undefined && { numFmt }),
      ...(width !== undefined && { width: Math.round(width * 100) / 100 }),
    };
  });
}

function sheetName(name = 'Rows'): string {
  // An apostrophe at either end is none of a name.
  const plain = name
    .replace(NOT_IN_NAMES, ' ')
    .slice(0, NAME)
    .replace(/^[\s']+|[\s']+$/g, '');
  // A pair of units that was cut in two is no letter.
  return plain.replace(/[\ud800-\udbff]$/, '') || 'Rows';
}

/** Tells why rows do not fit a spreadsheet file, and what to do; undefined where they do. */
export function misfit({ columns, rows = 0, longest = [] }: Taken, withMarks: boolean): string | undefined {
  const told = (count: number): string => count.toLocaleString('en');
  if (rows > WORKBOOK_LIMITS.rows)
    return `A spreadsheet file has ${told(WORKBOOK_LIMITS.rows)} rows at most; these are ${told(rows)}. Narrow them, or take them out as CSV.`;
  const long = longest.findIndex((length) => length > WORKBOOK_LIMITS.cell);
  if (long >= 0)
    return `A cell of a spreadsheet file has ${told(WORKBOOK_LIMITS.cell)} letters at most; one of “${columns[long].name}” has ${told(longest[long])}. Leave that column out, or take the rows out as CSV.`;
  if (withMarks && rows > BOLD_ROWS)
    return `Hits are in bold in up to ${told(BOLD_ROWS)} rows; these are ${told(rows)}. Narrow them, or take them out without marks.`;
  return undefined;
}

/** A text in runs, those that were hit in bold. */
function runsOf(text: string, hits: readonly MarkTuple[]): NonNullable<Cell['richText']> {
  return markedPieces(text, hits).map((piece) => ({
    text: literal(piece.text),
    ...(piece.keyword !== undefined && { font: { bold: true } }),
  }));
}

async function withBold(
  taken: Taken,
  rows: AsyncIterable<readonly TakenRow[]>,
  sheet: { readonly name: string; readonly columns: ColumnDef[] },
  isNamed: boolean,
): Promise<Uint8Array> {
  const { columns } = taken;
  const values: CellValue[][] = isNamed ? [columns.map(({ name }) => literal(name))] : [];
  const cells = new Map<string, Partial<Cell>>();
  for await (const some of rows)
    for (const row of some) {
      const at = values.push(row.cells.map((cell, i) => valueIn(cell, columns[i]))) - 1;
      for (const [i, text] of row.cells.entries()) {
        // Of what is a number or a date no part can be in bold.
        if (typeof values[at][i] !== 'string') continue;
        const hits = (row.marks ?? []).filter(([column]) => column === i);
        if (hits.length > 0) cells.set(`${at},${i}`, { value: text, type: 'richText', richText: runsOf(text, hits) });
      }
    }
  return writeXlsx({
    sheets: [{ ...sheet, rows: values, cells, ...(isNamed && { freezePane: { rows: 1 } }) }],
  });
}

/** @throws RangeError where the rows do not fit, see `misfit` */
export const writeWorkbook: Writer = async function* (taken, rows, { header = true, marks = false } = {}) {
  const why = misfit(taken, marks);
  if (why !== undefined) throw new RangeError(why);
  const name = sheetName(taken.name);
  if (marks) {
    yield await withBold(taken, rows, { name, columns: columnsOf(taken, false) }, header);
    return;
  }
  async function* values(): AsyncGenerator<CellValue[]> {
    for await (const some of rows)
      for (const { cells } of some) yield cells.map((cell, i) => valueIn(cell, taken.columns[i]));
  }
  yield* writeXlsxStream(values(), {
    name,
    columns: columnsOf(taken, header),
    ...(header && { freezePane: { rows: 1 } }),
    // More rows than there may be are refused, not put on another sheet in silence.
    maxRowsPerSheet: WORKBOOK_LIMITS.rows + 1,
    // Files with the larger numbers for places (ZIP64) the usual readers do not read where they were streamed: past 4 GiB it fails.
    zip64: false,
  }) as unknown as AsyncIterable<Uint8Array>;
};
