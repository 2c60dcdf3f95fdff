/** CSV by RFC 4180, and with another sign between fields where a program wants that. */
import { safeCell } from '../safe-cell.js';
import type { Writer } from '../taken.js';

/** A sign that can part fields. */
type FieldSign = ',' | ';' | '\t';

const QUOTED: Readonly<Record<FieldSign, RegExp>> = { ',': /[",\r\n]/, ';': /[";\r\n]/, '\t': /["\t\r\n]/ };
const BYTE_ORDER_MARK = '\ufeff';
const SIGNS = { comma: ',', semicolon: ';', tab: '\t' } as const;

/** A cell as it is written: in quotes where it has to be. */
export function csvCell(text: string, sign: FieldSign = ','): string {
  return QUOTED[sign].test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** A line with its end. A line of one blank cell is written in quotes, since a line of nothing is no row. */
export function csvLine(cells: readonly string[], sign: FieldSign = ','): string {
  if (cells.length === 1 && cells[0] === '') return '""\r\n';
  let line = '';
  for (let i = 0; i < cells.length; i++) line += (i === 0 ? '' : sign) + csvCell(cells[i], sign);
  return `${line}\r\n`;
}

/** Rows as CSV, cells as they are stored; to the letter, unless they are to be safe to open. */
export const writeCsv: Writer = async function* ({ columns }, rows, writing = {}) {
  const { header = true, delimiter = 'comma', mark = false, safe = false } = writing;
  const sign = SIGNS[delimiter];
  const line = (cells: readonly string[]): string => csvLine(safe ? cells.map(safeCell) : cells, sign);
  if (mark) yield BYTE_ORDER_MARK;
  if (header) yield line(columns.map(({ name }) => name));
  for await (const some of rows) yield some.reduce((text, { cells }) => text + line(cells), '');
};
