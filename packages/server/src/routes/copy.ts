/** A table as a file: read and written some rows at a time, however many there are. */
import type { CopyQuery, StoredRow } from '@usual-needle/contract';
import { csvLine } from '@usual-needle/formats/light';
import { NotAllowed } from '../access/not-allowed.js';
import type { ScopedRecords } from '../access/scoped-records.js';
import { seenPlaces } from '../access/seen.js';
import type { SearchThreads } from '../threads/search-threads.js';
import type { AskedTable } from './found.js';
import { answerOf } from './outcomes.js';

const BYTE_ORDER_MARK = '\ufeff';
const SIGNS = { comma: ',', semicolon: ';', tab: '\t' } as const;

/** Gives what looks up the cells of borrowed columns. */
export function filling(threads: SearchThreads): FillCells {
  return async ({ table: { id, columns }, scope }, rows) => {
    const cells = rows.map((row) => row.cells);
    if (!columns.some(({ borrows }) => borrows)) return cells;
    return answerOf(await threads.questions.filledCells(scope, id, cells), id);
  };
}

/** Cells of rows, with those of borrowed columns looked up. */
export type FillCells = (asked: AskedTable, rows: readonly StoredRow[]) => Promise<readonly (readonly string[])[]>;

/**
 * The columns and rows of a table as CSV (RFC 4180), cells as they are kept, as they were after a change. Borrowed columns are in
 * it only as they are now: what they were is in another table's log.
 * @param isStillAllowed looked at as it goes on @throws NotAllowed once it is not
 */
export async function* copyOf(
  records: ScopedRecords,
  asked: AskedTable,
  filled: FillCells,
  isStillAllowed: () => Promise<boolean>,
  { at: number = asked.table.change, delimiter = 'comma', mark = false }: CopyQuery,
): AsyncGenerator<string> {
  const { table, scope } = asked;
  const then = number < table.change;
  const columns = then ? await records.columnsThen(scope, table, number) : table.columns;
  const places = seenPlaces(columns, scope);
  const sign = SIGNS[delimiter];
  const line = (cells: readonly string[]): string =>
    csvLine(
      places.map((i) => cells[i] ?? ''),
      sign,
    );
  if (mark) yield BYTE_ORDER_MARK;
  yield csvLine(
    places.map((i) => columns[i].name),
    sign,
  );
  // What is committed meanwhile is not in it, of a table as it is now either.
  for await (const rows of records.rowsThen(scope, table, number)) {
    // It is cut off then, so that nobody takes it for whole.
    if (!(await isStillAllowed())) throw new NotAllowed('take out');
    const cells = then ? rows.map((row) => row.cells) : await filled(asked, rows);
    yield cells.map(line).join('');
  }
}
