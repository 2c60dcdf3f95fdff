/** Makes a file a table: kinds are found with care, cells are kept as they came. All of it is there, or nothing. */
import type { Column, FileChoices, TableSummary } from '@usual-needle/contract';
import {
  chosenNames,
  columnOf,
  KindFinder,
  readFile,
  takenColumns,
  tidiedBy,
  type Bytes,
  type Hints,
} from '@usual-needle/formats';
import type { BringIns } from '../data/bring-ins.js';
import { cellsSize, cutBySize } from '../data/logged-rows.js';
import { joinedRecords, recordsText } from '../data/records.js';
import { inTurns } from './in-turns.js';
import { Lane } from './lane.js';

/** The side that searches the table, once it is there. */
interface Searching {
  /** Begins to fill a table, which does not answer yet. */
  begin(id: number, columns: readonly Column[]): Promise<void>;
  /** @param first id of the first row @param text see `recordsText` */
  appendFrom(id: number, first: number, text: string): Promise<void>;
  /** Ends the filling: with these columns it answers. */
  finish(id: number, columns: readonly Column[], rows: number): Promise<void>;
  /** Reads a table from the database, instead. */
  load(table: Pick<TableSummary, 'id' | 'columns' | 'change' | 'rows'>): Promise<void>;
  drop(id: number): Promise<void>;
}

/** A file as it is to be read. */
export interface IncomingFile {
  readonly bytes: Bytes;
  readonly choices: FileChoices;
  readonly hints: Hints;
  /** Where the table comes from, if that is to be known later. */
  readonly source?: string;
}

/** Rows, and letters, written at once, and how many such pieces may wait to be. */
const AT_ONCE = 4_000;
const LETTERS_AT_ONCE = 4 * 1024 * 1024;
const WAITING = 3;

/**
 * Rows are written to the database, and read into the search thread, while the next are read from the file. The table answers
 * only when it is whole, and is one only once it can be searched, so that whatever fails before leaves none.
 * @throws FileProblem, DiskFull
 */
export async function bringIn(
  bringIns: BringIns,
  searching: Searching,
  name: string,
  { bytes, choices, hints, source }: IncomingFile,
): Promise<TableSummary> {
  const file = await readFile(bytes, { choices, hints });
  const finder = new KindFinder(file.columns.length);
  const id = await bringIns.begin(name);
  const writing = new Lane(WAITING);
  const searched = new Lane(WAITING);
  try {
    const found = (): Column[] => {
      const names = chosenNames(file.columns, choices);
      const guesses = finder.done();
      return takenColumns(names.length, choices).map((i) => columnOf(names[i], guesses[i], choices, i));
    };
    let count = 0;
    let columns = file.columns.length;
    let ragged = false;
    let begun = false;
    /** Not written yet: rows, and what they are as text. */
    let kept: string[] = [];
    let rowsKept = 0;
    let lettersKept = 0;
    const write = async (): Promise<void> => {
      const text = joinedRecords(kept);
      const first = count + 1;
      count += rowsKept;
      kept = [];
      rowsKept = 0;
      lettersKept = 0;
      // What the first rows hold is told the search thread, so that little of what it readies has to be done again.
      const toldColumns = begun ? undefined : found();
      begun = true;
      await writing.add(() => bringIns.put(id, first, text));
      await searched.add(async () => {
        if (toldColumns) await searching.begin(id, toldColumns);
        await searching.appendFrom(id, first, text);
      });
    };
    for await (const { rows } of inTurns(file.batches)) {
      ragged ||= begun && columns !== file.columns.length;
      columns = file.columns.length;
      finder.add(rows);
      const taken = takenColumns(columns, choices);
      // A batch may hold few rows and many letters.
      for (const some of cutBySize(rows, cellsSize, LETTERS_AT_ONCE)) {
        const text = recordsText(taken.length === columns ? some : some.map((row) => taken.map((i) => row[i])));
        kept.push(text);
        rowsKept += some.length;
        lettersKept += text.length;
        if (rowsKept >= AT_ONCE || lettersKept >= LETTERS_AT_ONCE) await write();
      }
    }
    if (rowsKept > 0 || !begun) await write();
    await writing.done();
    await searched.done();
    const all = found();
    if (ragged) {
      // The search thread did not know of columns that came later; those rows are read anew.
      await searching.load({ id, columns: all, change: 1, rows: count });
    } else await searching.finish(id, all, count);
    return await bringIns.finish(id, all, count, { source, tidied: tidiedBy(file.columns, choices) });
  } catch (error) {
    await Promise.allSettled([writing.done(), searched.done()]);
    await searching.drop(id).catch(() => undefined);
    // If that fails too, the next tidying does it: nobody sees the rows meanwhile.
    await bringIns.erase(id).catch(() => undefined);
    throw error;
  }
}
