/** The form of a file, by its first bytes, and by what its sender says it is. */
import type { FileFormat } from '@usual-needle/contract';
import { FileProblem } from './problem.js';
import { markedEncoding } from './text/decode.js';

/** The things known of a file besides its bytes. */
export interface Hints {
  /** The file's media type. */
  readonly type?: string;
  /** The file's name. */
  readonly name?: string;
}

const TYPES: Readonly<Record<string, FileFormat>> = {
  'text/csv': 'csv',
  'text/tab-separated-values': 'csv',
  'application/json': 'json',
  'application/x-ndjson': 'ndjson',
  'application/jsonl': 'ndjson',
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet': 'xlsx',
  'application/vnd.oasis.opendocument.spreadsheet': 'ods',
};

/** Media types that files are sent in: those that say what they are, and those that do not. */
export const FILE_TYPES: readonly string[] = [
  ...Object.keys(TYPES),
  'text/plain',
  'application/octet-stream',
  'application/gzip',
  'application/x-gzip',
  'application/zip',
  'application/x-www-form-urlencoded',
];

const starts = (head: Uint8Array, ...bytes: number[]): boolean => bytes.every((byte, i) => head[i] === byte);

export function isZip(head: Uint8Array): boolean {
  return starts(head, 0x50, 0x4b, 3, 4) || starts(head, 0x50, 0x4b, 5, 6);
}

/** Part of the first bytes that may be control characters in a text, beyond a few. */
const CONTROLS = 0.1;
const FEW = 8;

/** @throws FileProblem if it is none that can be read */
export function textFormat(head: Uint8Array, { type, name = '' }: Hints): 'csv' | 'json' | 'ndjson' {
  if (starts(head, 0xd0, 0xcf, 0x11, 0xe0))
    throw new FileProblem(
      'It is a workbook protected by a password, or of an old kind. Save it as .xlsx or .ods without a password, or as CSV.',
    );
  if (starts(head, 0x25, 0x50, 0x44, 0x46)) throw new FileProblem('It is a PDF, which is no table. Save it as CSV.');
  const marked = markedEncoding(head);
  const looked = head.subarray(0, 4096);
  const controls = looked.filter((byte) => byte < 32 && byte !== 9 && byte !== 10 && byte !== 12 && byte !== 13).length;
  if (!marked && controls > FEW + looked.length * CONTROLS)
    throw new FileProblem('It is not a table: its bytes are no text, and no workbook.');
  const told = type === undefined ? undefined : TYPES[type];
  if (told === 'csv' || told === 'json' || told === 'ndjson') return told;
  if (/\.(csv|tsv|tab)(\.gz)?$/i.test(name)) return 'csv';
  if (/\.(ndjson|jsonl)(\.gz)?$/i.test(name)) return 'ndjson';
  const text = String.fromCharCode(...looked)
    .replace(/^(?:\xef\xbb\xbf|\xff\xfe|\xfe\xff)/, '')
    .replaceAll('\0', '')
    .trimStart();
  if (/^\[[^\n]*\]\s*\n\s*\[/.test(text)) return 'ndjson';
  if (/^\[\s*(?:[[{\]"]|$)/.test(text)) return 'json';
  if (/^\{\s*(?:"|\}|$)/.test(text)) return 'ndjson';
  return 'csv';
}
