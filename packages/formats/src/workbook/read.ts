/** A sheet of a workbook as a table: its first row that is not blank is the header. */
import type { FileChoices } from '@usual-needle/contract';
import { looksLikeHeader } from '../header.js';
import { columnNames, numberedNames, padded, RowMender, type Batch } from '../mend.js';
import type { Notice } from '../notes.js';
import { FileProblem } from '../problem.js';
import { Archive } from './archive.js';
import { odsSheets } from './ods.js';
import { xlsxSheets, type SheetRow } from './xlsx.js';

export interface WorkbookTable {
  readonly format: 'xlsx' | 'ods';
  readonly sheets: readonly string[];
  readonly sheet: string;
  readonly header: boolean;
  readonly columns: readonly string[];
  readonly batches: Iterable<Batch>;
}

const BATCH = 500;

/** @throws FileProblem */
export function readWorkbook(
  bytes: Uint8Array,
  choices: FileChoices,
  notice?: Notice,
  looksForHeader = false,
): WorkbookTable {
  const archive = new Archive(bytes);
  const isXlsx = archive.names.includes('xl/workbook.xml');
  if (!isXlsx && !archive.names.includes('content.xml'))
    throw new FileProblem('It is a ZIP archive, and no workbook. Unpack it and bring in the file that is in it.');
  const sheets = isXlsx ? xlsxSheets(archive) : odsSheets(archive);
  if (sheets.length === 0) throw new FileProblem('The workbook has no sheet.');
  const sheet = choices.sheet === undefined ? sheets[0] : sheets.find(({ name }) => name === choices.sheet);
  if (!sheet) throw new FileProblem(`The workbook has no sheet “${choices.sheet}”.`);
  const rows = sheet.rows();
  const first: SheetRow[] = [];
  for (let next = rows.next(); !next.done; next = rows.next()) if (first.push(next.value) >= 20) break;
  if (first.length === 0) throw new FileProblem(`The sheet “${sheet.name}” is empty.`);
  // A sheet without a header is as wide as the widest of its first rows.
  const width = Math.max(...first.map(({ cells }) => cells.length));
  const header = choices.header ?? (!looksForHeader || looksLikeHeader(first.map(({ cells }) => cells)));
  const columns = header ? columnNames(first[0].cells, choices, notice, first[0].row) : numberedNames(width);
  const mender = new RowMender(columns.length, choices, notice);
  function* batches(): Generator<Batch> {
    const found = first.slice(header ? 1 : 0);
    const take = (): Batch => {
      const some = found.splice(0, BATCH);
      // Cells at the end of a row are not written where they are blank.
      const rows = some.map(({ cells }) => padded(cells, columns.length));
      return mender.mend({ rows, lines: some.map(({ row }) => row) });
    };
    for (const row of rows) if (found.push(row) >= BATCH) yield take();
    yield take();
  }
  return {
    format: isXlsx ? 'xlsx' : 'ods',
    sheets: sheets.map(({ name }) => name),
    sheet: sheet.name,
    header,
    columns,
    batches: batches(),
  };
}
