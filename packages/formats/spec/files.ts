/** Files made for tests, and what is read of them. */
import { gzipSync, strToU8, zipSync } from 'fflate';
import { FileProblem, readFile, type FileFindings, type Note, type ReadOptions } from '@usual-needle/formats';

export async function* inPieces(bytes: Uint8Array, size = 1000): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}

export interface ReadOut {
  readonly found: FileFindings;
  readonly columns: readonly string[];
  readonly rows: string[][];
  readonly lines: number[];
  readonly notes: Note[];
}

export async function readOut(bytes: Uint8Array | string, options: ReadOptions = {}, size?: number): Promise<ReadOut> {
  const notes: Note[] = [];
  const all = typeof bytes === 'string' ? strToU8(bytes) : bytes;
  const table = await readFile(inPieces(all, size), { notice: (note) => notes.push(note), ...options });
  const rows: string[][] = [];
  const lines: number[] = [];
  for await (const batch of table.batches) {
    for (const row of batch.rows) rows.push([...row]);
    lines.push(...batch.lines);
  }
  // Of JSON, rows before a further column was met are without its cell.
  for (const row of rows) while (row.length < table.columns.length) row.push('');
  return { found: table.found(), columns: table.columns, rows, lines, notes };
}

/** Why a file is not read, and where. */
export async function refusal(bytes: Uint8Array | string, options: ReadOptions = {}): Promise<[string, number?]> {
  try {
    await readOut(bytes, options);
  } catch (error) {
    if (error instanceof FileProblem) return error.line === undefined ? [error.message] : [error.message, error.line];
    throw error;
  }
  return ['it was read'];
}

export const gzip = (text: string): Uint8Array => gzipSync(strToU8(text));

const ESCAPES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '"': '&quot;' };
const escaped = (text: string): string => text.replace(/[&<"]/g, (sign) => ESCAPES[sign]);

/** A cell of a workbook: a text, or a number in a format. */
export type Cell = string | { readonly n: number | string; readonly style?: number };

function cellXml(cell: Cell, i: number, row: number): string {
  const at = `r="${String.fromCharCode(65 + i)}${row}"`;
  if (cell === '') return `<c ${at} s="1"/>`;
  if (typeof cell !== 'string') return `<c ${at} s="${cell.style ?? 0}"><v>${cell.n}</v></c>`;
  return `<c ${at} t="inlineStr"><is><t xml:space="preserve">${escaped(cell)}</t></is></c>`;
}

/** An OOXML workbook of one sheet, whose cell formats are the given ones. */
export function xlsx(rows: readonly (readonly Cell[])[], formats: readonly string[] = [], more = ''): Uint8Array {
  const sheet = rows.map(
    (cells, i) => `<row r="${i + 1}">${cells.map((cell, k) => cellXml(cell, k, i + 1)).join('')}</row>`,
  );
  return zipSync({
    'xl/worksheets/sheet1.xml': strToU8(`<worksheet><sheetData>${sheet.join('')}${more}</sheetData></worksheet>`),
    'xl/workbook.xml': strToU8(
      '<workbook xmlns:r="r"><sheets><sheet name="First" sheetId="1" r:id="rId1"/><sheet name="Second" sheetId="2" r:id="rId2"/></sheets></workbook>',
    ),
    'xl/worksheets/sheet2.xml': strToU8(
      '<worksheet><sheetData><row><c t="s"><v>0</v></c></row><row><c t="s"><v>1</v></c></row></sheetData></worksheet>',
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      '<Relationships><Relationship Id="rId1" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Target="/xl/worksheets/sheet2.xml"/></Relationships>',
    ),
    'xl/sharedStrings.xml': strToU8(
      '<sst><si><t>Only</t></si><si><r><t>two </t></r><r><t>parts</t></r><rPh><t>no</t></rPh></si></sst>',
    ),
    'xl/styles.xml': strToU8(
      `<styleSheet><numFmts>${formats.map((code, i) => `<numFmt numFmtId="${164 + i}" formatCode="${escaped(code)}"/>`).join('')}</numFmts><cellXfs><xf numFmtId="0"/><xf numFmtId="14"/>${formats.map((_, i) => `<xf numFmtId="${164 + i}"/>`).join('')}</cellXfs></styleSheet>`,
    ),
  });
}

const NAMES = 'xmlns:office="o" xmlns:table="t" xmlns:text="x"';

/** An OpenDocument sheet, whose content is given. */
export function ods(rows: string, manifest = '<manifest/>'): Uint8Array {
  return zipSync({
    'META-INF/manifest.xml': strToU8(manifest),
    'content.xml': strToU8(
      `<office:document-content ${NAMES}><table:table table:name="First">${rows}</table:table></office:document-content>`,
    ),
  });
}
