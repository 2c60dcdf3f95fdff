/** A sheet of a workbook as a table: its first row that is not blank is the header. */
import type { FileChoices } from '@usual-needle/contract';
import { looksLikeHeader } from '../header.js';
import { columnNames, numberedNames, padded, RowMender, type Batch } from '../mend.js';
import type { TakeNote } from '../notes.js';
import { Pauses } from '../pauses.js';
import { FileProblem } from '../problem.js';
import { Archive } from './archive.js';
import { odsSheets } from './ods.js';
import { xlsxSheets, type SheetRow } from './xlsx.js';

interface WorkbookTable {
  readonly format: 'xlsx' | 'ods';
  readonly sheets: readonly string[];
  readonly sheet: string;
  readonly header: boolean;
  readonly columns: readonly string[];
  readonly batches: AsyncIterable<Batch>;
}

/** Rows, and letters, of a batch at most. */
const BATCH = 500;
const BATCH_LETTERS = 1024 * 1024;

/** Rows that are looked at before the others. */
const FIRST = 20;

/** @throws FileProblem */
export async function readWorkbook(bytes: Uint8Array, choices: FileChoices, notice?: TakeNote): Promise<WorkbookTable> {
  const archive = await Archive.open(bytes);
  const isXlsx = archive.names.includes('xl/workbook.xml');
  if (!isXlsx && !archive.names.includes('content.xml'))
    throw new FileProblem('It is a ZIP archive, and no workbook. Unpack it and bring in the file that is in it.');
  const sheets = await (isXlsx ? xlsxSheets(archive) : odsSheets(archive));
  if (sheets.length === 0) throw new FileProblem('The workbook has no sheet.');
  const sheet = choices.sheet === undefined ? sheets[0] : sheets.find(({ name }) => name === choices.sheet);
  if (!sheet) throw new FileProblem(`The workbook has no sheet “${choices.sheet}”.`);
  const rows = sheet.rows();
  const first: SheetRow[] = [];
  const pauses = new Pauses();
  while (first.length < FIRST) {
    const next = rows.next();
    if (next.done) break;
    if (next.value) first.push(next.value);
    if (pauses.isDue) await pauses.rest();
  }
  if (first.length === 0) throw new FileProblem(`The sheet “${sheet.name}” is empty.`);
  // A sheet without a header is as wide as the widest of its first rows.
  const width = Math.max(...first.map(({ cells }) => cells.length));
  const header = choices.header ?? looksLikeHeader(first.map(({ cells }) => cells));
  const columns = header ? columnNames(first[0].cells, choices, notice, first[0].row) : numberedNames(width);
  const mender = new RowMender(columns.length, choices, notice);
  async function* batches(): AsyncGenerator<Batch> {
    const found = first.slice(header ? 1 : 0);
    let letters = 0;
    const take = (): Batch => {
      letters = 0;
      const some = found.splice(0);
      // Cells at the end of a row are not written where they are blank.
      const rows = some.map(({ cells }) => padded(cells, columns.length));
      return mender.mend({ rows, lines: some.map(({ row }) => row) });
    };
    for (const row of rows) {
      if (row) {
        letters += row.cells.reduce((sum, cell) => sum + cell.length + 1, 0);
        if (found.push(row) >= BATCH || letters > BATCH_LETTERS) yield take();
      }
      if (pauses.isDue) await pauses.rest();
    }
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
