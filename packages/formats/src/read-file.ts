/** Any file that can be brought in, as a table: what it is in is found, or said. */
import { LIMITS, type Encoding, type FileChoices, type FileFormat } from '@usual-needle/contract';
import { gunzipped, isGzip, limited, opened, whole, type Bytes } from './bytes.js';
import { readCsv } from './csv/read.js';
import { readJson } from './json/read.js';
import type { Batch } from './mend.js';
import type { TakeNote } from './notes.js';
import { FileProblem } from './problem.js';
import { isZip, textFormat, type Hints } from './sniff.js';
import { decoded, Decoder } from './text/decode.js';
import { Tidier, tidied } from './tidy.js';
import { readWorkbook } from './workbook/read.js';

/** The findings on a file: what it is and what was noticed. */
export interface FileFindings {
  readonly format: FileFormat;
  readonly packed: boolean;
  readonly header: boolean;
  /** The encoding of a text, as far as it is known. */
  readonly encoding?: Encoding;
  readonly delimiter?: string;
  /** All sheets of a workbook, and the one that is read. */
  readonly sheets?: readonly string[];
  readonly sheet?: string;
}

export interface FileTable {
  found(): FileFindings;
  /** Names of the columns, of those too that are left out. Of JSON there may be more once all of it is read. */
  readonly columns: readonly string[];
  /** Rows as they stand in the file, but for what is mended; with all of their columns. */
  readonly batches: AsyncIterable<Batch>;
}

export interface ReadOptions {
  readonly choices?: FileChoices;
  readonly hints?: Hints;
  readonly notice?: TakeNote;
  /** The choices by which the rows are tidied, for a file of such columns; those of `choices`, if not said. */
  readonly tidying?: (columns: readonly string[]) => FileChoices;
  /** Bytes that it may have; that of a server, if not said. */
  readonly limit?: number;
}

/** Bytes that tell what a file is. */
const HEAD = 8 * 1024;

/** @throws FileProblem, at once or while rows are read */
export async function readFile(bytes: Bytes, options: ReadOptions = {}): Promise<FileTable> {
  const table = await readRows(bytes, options);
  const tidier = new Tidier(options.tidying?.(table.columns) ?? options.choices ?? {});
  if (!tidier.isAsked) return table;
  return {
    found: () => table.found(),
    get columns() {
      return table.columns;
    },
    batches: tidied(table.batches, tidier),
  };
}

async function readRows(bytes: Bytes, options: ReadOptions): Promise<FileTable> {
  const { choices = {}, hints = {}, notice, limit = LIMITS.file } = options;
  let file = await opened(limited(bytes, limit, 'The file'), HEAD);
  const packed = isGzip(file.head);
  if (packed) {
    const unpacked = limited(gunzipped(file.bytes), Math.max(limit, LIMITS.unpacked), 'What is packed in the file');
    file = await opened(unpacked, HEAD);
    if (isGzip(file.head)) throw new FileProblem('It is packed by gzip twice. Unpack it and try again.');
  }
  const { head } = file;
  if (isZip(head)) {
    const bytes = await whole(file.bytes, LIMITS.workbook, 'The workbook');
    const { format, sheets, sheet, header, columns, batches } = await readWorkbook(bytes, choices, notice);
    return { found: () => ({ format, packed, header, sheets, sheet }), columns, batches };
  }
  if (head.length === 0) throw new FileProblem('The file is empty.', 1);
  const format = choices.format ?? textFormat(head, hints);
  if (format === 'xlsx' || format === 'ods') throw new FileProblem('It is no workbook.');
  const decoder = new Decoder(head, choices, notice);
  const text = decoded(file.bytes, decoder);
  const asked = { choices, notice };
  if (format === 'csv') {
    const { columns, header, delimiter, batches } = await readCsv(text, asked);
    return { found: () => ({ format, packed, header, delimiter, encoding: decoder.encoding }), columns, batches };
  }
  const { columns, header, batches } = await readJson(text, format === 'ndjson', asked);
  return { found: () => ({ format, packed, header, encoding: decoder.encoding }), columns, batches };
}
