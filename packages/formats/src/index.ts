export { FileProblem } from './problem.js';
export { readCsv, type CsvOptions } from './csv/read.js';
export { csvCell, csvLine } from './csv/write.js';
export { delimiterOf, DELIMITERS } from './csv/delimiter.js';
export { ENCODING_NAMES } from './text/decode.js';
export { KindFinder } from './kinds.js';
export type { Note, NoteKind, Notice } from './notes.js';
export { type Batch, type Row } from './mend.js';
export { chosenNames, columnOf, takenColumns } from './chosen.js';
export { readFile, type FileTable, type Found, type ReadOptions } from './read-file.js';
export { FILE_TYPES, type Hints } from './sniff.js';
export { tableName } from './table-name.js';
export type { Bytes } from './bytes.js';
export type { KindGuess } from '@usual-needle/engine';
export {
  FINE,
  LookThrough,
  PLACES,
  type ColumnLook,
  type Look,
  type LookRow,
  type Showing,
  type Trouble,
} from './look.js';
