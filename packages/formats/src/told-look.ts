/** The report on a file that is looked through (see `look.ts`): its columns, what wants a look and where, and rows to be shown. */
import type { Column } from '@usual-needle/contract';
import type { KindGuess } from '@usual-needle/engine';
import type { FileRow } from './mend.js';
import type { NoteKind } from './notes.js';
import type { FileFindings } from './read-file.js';
import type { Spelling } from './spellings.js';

/** Parts that the strip tells apart. */
export const PLACES = 200;

export interface SampleRow {
  readonly line: number;
  readonly cells: FileRow;
}

/** A column as it will be. */
export interface ColumnLook {
  /** The column's name in the file. */
  readonly name: string;
  /** The kind that was found, and the one that was chosen. */
  readonly found: KindGuess;
  readonly column: Column;
  readonly taken: boolean;
  readonly filled: number;
  /** How many values a choice has. */
  readonly values: number | undefined;
  /** A cell with both of its signs, as an example of its numbers. */
  readonly example: string;
}

/** A group of cells or rows that want a look, all of one sort. */
export interface Trouble {
  readonly what:
    | NoteKind
    | 'misfit'
    | 'open order'
    | 'order'
    | 'no value'
    | 'short years'
    | 'century'
    | 'unit'
    | 'units'
    | 'near same';
  /** Place of the column, of what is about one. */
  readonly column: number;
  readonly count: number;
  readonly examples: readonly { readonly line: number; readonly text: string }[];
  /** The spellings of values that are nearly the same, each with the one that most cells have. */
  readonly spellings?: readonly Spelling[];
}

export interface Look {
  readonly found: FileFindings;
  readonly columns: readonly ColumnLook[];
  readonly rows: number;
  readonly bytes: number;
  readonly done: boolean;
  readonly troubles: readonly Trouble[];
  /** How many rows or cells want a look, by place in the file: as many places as are needed for the rows read so far. */
  readonly places: readonly number[];
}

/** A row as the preview shows it. */
export interface LookRow {
  readonly line: number;
  /** The cells as they will be shown. */
  readonly cells: readonly string[];
  /** Columns whose cell does not fit its kind. */
  readonly wrong: readonly number[];
  /** The row itself was mended. */
  readonly mended: boolean;
}

/** The rows to show: the first, those at a place of the strip, or those of one sort of trouble. */
export type Showing =
  'first' | { readonly place: number } | { readonly what: Trouble['what']; readonly column: number };

/** Troubles that are no cause to do anything. */
export const FINE: readonly Trouble['what'][] = ['line break', 'order', 'century', 'unit'];
