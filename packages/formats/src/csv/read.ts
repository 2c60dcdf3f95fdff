/**
 * A CSV file (RFC 4180), of whatever delimiter, as rows of raw cells. Line ends may be CRLF, LF or CR, one beside the other.
 */
import Papa from 'papaparse';
import type { FileChoices } from '@usual-needle/contract';
import { columnNames, numberedNames, RowMender, type Batch, type FileRow } from '../mend.js';
import type { TakeNote } from '../notes.js';
import { FileProblem } from '../problem.js';
import { looksLikeHeader } from '../header.js';
import { delimiterOf } from './delimiter.js';
import { RecordReader, type Block } from './records.js';

/** The settings by which a file is read as CSV. */
export interface CsvOptions {
  readonly choices?: FileChoices;
  readonly notice?: TakeNote;
  /** Rows in a batch, at most. */
  readonly batch?: number;
}

interface CsvTable {
  readonly columns: readonly string[];
  readonly delimiter: string;
  readonly header: boolean;
  readonly batches: AsyncIterable<Batch>;
}

/** Letters that are looked at to find the delimiter, and within which the header has to end. */
const HEAD = 256 * 1024;
const BATCH = 2_000;

function cellsOf(text: string, delimiter: string): FileRow[] {
  const parser = new Papa.Parser({ delimiter, newline: '\n', quoteChar: '"' });
  const { data } = parser.parse(text, 0, false) as Papa.ParseResult<string[]>;
  // After the last line end nothing comes, which is read as a row of nothing.
  if (text.endsWith('\n') && data.at(-1)?.length === 1 && data.at(-1)![0] === '') data.pop();
  return data;
}

/** Text until there is a header, and all that is left. */
async function* blocksOf(
  head: string,
  rest: AsyncIterator<string>,
  reader: RecordReader,
): AsyncGenerator<Block, void, undefined> {
  let chunk = head;
  for (let more = true; more;) {
    const next = await rest.next();
    more = !next.done;
    const block = reader.put(chunk, !more);
    if (block) yield block;
    if (!next.done) chunk = next.value;
  }
}

/**
 * Reads the header at once, and the rows as they are asked for.
 * @param text decoded, without a byte order mark
 * @throws FileProblem for no header, an unclosed quote, a row with too many or too few cells, a NUL, or a limit, where the
 * choices do not say how that is mended
 */
export async function readCsv(text: AsyncIterable<string>, options: CsvOptions = {}): Promise<CsvTable> {
  const { choices = {}, notice } = options;
  const chunks = text[Symbol.asyncIterator]();
  let head = '';
  for (let next = await chunks.next(); !next.done; next = await chunks.next()) {
    head += next.value;
    if (head.length >= HEAD) break;
  }
  if (head.trim() === '') throw new FileProblem('The file is empty: there is no header line.', 1);
  const delimiter = choices.delimiter ?? delimiterOf(head.slice(0, HEAD));
  const blank = /^[\r\n]+/.exec(head)?.[0] ?? '';
  const body = head.slice(blank.length);
  const [first] = cellsOf(body.slice(0, HEAD).split(/\r?\n|\r/, 1)[0] + '\n', delimiter);
  const reader = new RecordReader(delimiter, first?.length === 1, 1 + (blank.match(/\r\n|\r|\n/g)?.length ?? 0));
  const blocks = blocksOf(body, chunks, reader);
  const { value: block, done } = await blocks.next();
  if (done) throw new FileProblem('The file has no header line.', 1);
  const rows = cellsOf(block.text, delimiter);
  const header = choices.header ?? looksLikeHeader(rows);
  const columns = header ? columnNames(rows[0], choices, notice, block.lines[0]) : numberedNames(rows[0].length);
  const mender = new RowMender(columns.length, choices, notice, delimiter);
  const skipped = header ? 1 : 0;
  async function* batches(size: number): AsyncGenerator<Batch> {
    const parts = function* ({ rows, lines }: Batch): Generator<Batch> {
      for (let at = 0; at < rows.length; at += size)
        yield mender.mend({ rows: rows.slice(at, at + size), lines: lines.slice(at, at + size) });
    };
    yield* parts({ rows: rows.slice(skipped), lines: block!.lines.slice(skipped) });
    for await (const { text, lines } of blocks) yield* parts({ rows: cellsOf(text, delimiter), lines });
  }
  return { columns, delimiter, header, batches: batches(options.batch ?? BATCH) };
}
