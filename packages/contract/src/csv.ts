/** A CSV file (RFC 4180) as a header and rows of raw cells. Nothing is guessed at: a row that does not fit is refused by its line. */
import Papa from 'papaparse';

/** Limits of one file. */
export const CSV_LIMITS = { columns: 500, cell: 100_000, rows: 2_000_000 } as const;

export class CsvProblem extends Error {
  constructor(
    message: string,
    /** Line of the file, from 1. */
    readonly line: number,
  ) {
    super(message);
  }
}

export interface CsvTable {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

function lineBreaks(text: string, from: number, to: number): number {
  let breaks = 0;
  for (let i = from; i < to; i++) {
    const unit = text.charCodeAt(i);
    if (unit === 10 || (unit === 13 && text.charCodeAt(i + 1) !== 10)) breaks++;
  }
  return breaks;
}

function checkHeader(header: readonly string[]): string[] {
  const names = header.map((name) => name.trim());
  names.forEach((name, i) => {
    if (name === '') throw new CsvProblem(`Column ${i + 1} has no name.`, 1);
    if (name.length > 200) throw new CsvProblem(`The name of column ${i + 1} is longer than 200 characters.`, 1);
    if (names.indexOf(name) !== i) throw new CsvProblem(`Two columns are named “${name}”.`, 1);
  });
  if (names.length > CSV_LIMITS.columns) {
    throw new CsvProblem(`${names.length} columns; a table takes ${CSV_LIMITS.columns} at most.`, 1);
  }
  return names;
}

/**
 * @param text decoded file; a byte order mark, CRLF, LF or CR line ends and line breaks in quotes are all right
 * @throws CsvProblem for no header, an unclosed quote, a row with too many or too few cells, a NUL, or a limit
 */
export function readCsv(text: string): CsvTable {
  const source = text.charCodeAt(0) === 0xfeff ? text.slice(1) : text;
  if (source.trim() === '') throw new CsvProblem('The file is empty: there is no header line.', 1);
  let columns: string[] | undefined;
  const rows: string[][] = [];
  let line = 1;
  let counted = 0;
  Papa.parse<string[]>(source, {
    delimiter: ',',
    step: ({ data, errors, meta }) => {
      const start = line;
      line += lineBreaks(source, counted, meta.cursor);
      counted = meta.cursor;
      const quote = errors.find(({ type }) => type === 'Quotes');
      if (quote) {
        const what =
          quote.code === 'MissingQuotes' ? 'A quote is opened and never closed' : 'A quote stands inside a cell';
        throw new CsvProblem(`${what} in the row that starts on line ${start}.`, start);
      }
      if (data.length === 1 && data[0] === '' && (!columns || columns.length > 1 || counted >= source.length)) return;
      if (!columns) {
        columns = checkHeader(data);
        return;
      }
      if (data.length !== columns.length) {
        const cells = data.length === 1 ? '1 cell' : `${data.length} cells`;
        throw new CsvProblem(`Line ${start} has ${cells}; the header has ${columns.length}.`, start);
      }
      for (const cell of data) {
        if (cell.includes('\0')) throw new CsvProblem(`A cell of line ${start} holds a NUL character.`, start);
        if (cell.length > CSV_LIMITS.cell) {
          throw new CsvProblem(`A cell of line ${start} is longer than ${CSV_LIMITS.cell} characters.`, start);
        }
      }
      if (rows.length === CSV_LIMITS.rows) {
        throw new CsvProblem(`The file has more than ${CSV_LIMITS.rows} rows.`, start);
      }
      rows.push(data);
    },
  });
  if (!columns) throw new CsvProblem('The file has no header line.', 1);
  return { columns, rows };
}
