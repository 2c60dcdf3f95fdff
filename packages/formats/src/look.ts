/**
 * A file looked through before it is brought in: what it is, what its columns hold, and everything that wants a look, with
 * where in the whole file it lies. Of the file nothing is kept but its first rows and some of each sort that is told.
 */
import { LENIENT, type Column, type FileChoices } from '@usual-needle/contract';
import {
  fits,
  isBlank,
  type KindTally,
  ownText,
  shownText,
  wayOf,
  type KindGuess,
  type Way,
} from '@usual-needle/engine';
import type { Bytes } from './bytes.js';
import { columnOf } from './chosen.js';
import { halve, LookedColumn, newSort, type Sort } from './looked-column.js';
import type { FileRow } from './mend.js';
import { shortened, type Note, type NoteKind } from './notes.js';
import { readFile, type FileTable } from './read-file.js';
import { RowSet } from './row-set.js';
import type { Hints } from './sniff.js';
import { hasOuterSpaces, Tidier } from './tidy.js';
import { SPELLINGS_ROOM } from './spellings.js';
import {
  FINE,
  PLACES,
  type ColumnLook,
  type Look,
  type LookRow,
  type SampleRow,
  type Showing,
  type Trouble,
} from './told-look.js';

/** Rows shown from the beginning, from one place of the strip, and of one sort of problem. */
const FIRST = 200;
const OF_A_PLACE = 30;
const OF_A_SORT = 100;
const EXAMPLES = 3;
/** Rows looked at together, and lines remembered as mended. */
const TOGETHER = 50;
const MENDED = 10_000;
/** Letters of a cell that are shown. */
const SHOWN = 400;
/** Part of a column's cells that may be unreadable where a person looks at them. */
const TOLERATED = 0.02;

export class LookThrough {
  private table: FileTable | undefined;
  private readonly columns: LookedColumn[] = [];
  private readonly notes = new Map<NoteKind, Sort>();
  private readonly first: SampleRow[] = [];
  private readonly placeRows: SampleRow[][] = Array.from({ length: PLACES }, () => []);
  /** Rows in one place of the strip: doubled as often as there are too many for it. */
  private width = 1;
  private readonly mendedLines = new Set<number>();
  private pending: Note[] = [];
  private rows = 0;
  private bytes = 0;
  private done = false;
  private readonly seen = new RowSet();
  private tidier: Tidier;

  constructor(
    private choices: FileChoices,
    private readonly hints: Hints,
  ) {
    this.tidier = new Tidier(choices);
  }

  /** True if a change of choices asks for the file to be read anew. */
  asksToReadAnew(choices: FileChoices): boolean {
    // What is tidied is tidied in what is shown, too.
    const reading = (one: FileChoices): string =>
      JSON.stringify({ ...one, columns: undefined, spaces: undefined, repeated: undefined });
    return reading(choices) !== reading(this.choices);
  }

  /** Columns are named, left out, or of another kind. */
  choose(choices: FileChoices): void {
    this.choices = choices;
    this.tidier = new Tidier(choices);
  }

  /**
   * Looks through the file. Between two batches whoever asked may do something else.
   * @throws FileProblem
   */
  async *read(bytes: Bytes): AsyncGenerator<void> {
    const counted = this.counting(bytes);
    this.table = await readFile(counted, {
      choices: { ...LENIENT, ...this.choices, columns: undefined, spaces: undefined, repeated: undefined },
      hints: this.hints,
      notice: (note) => this.pending.push(note),
    });
    for await (const { rows, lines } of this.table.batches) {
      // Some rows at a time, so that what was noticed is told near where it is.
      const noticed = this.pending;
      for (let at = 0; at < rows.length; at += TOGETHER) {
        const [some, their] = [rows.slice(at, at + TOGETHER), lines.slice(at, at + TOGETHER)];
        const last = at + TOGETHER >= rows.length ? Infinity : their[their.length - 1];
        const until = noticed.findIndex(({ line }) => line > last);
        this.takeNotes(noticed.splice(0, until < 0 ? noticed.length : until), some, their);
        for (let i = 0; i < some.length; i++) this.addRow(some[i], their[i]);
      }
      this.pending = noticed;
      yield;
    }
    this.takeNotes(this.pending, [], []);
    this.done = true;
    yield;
  }

  private async *counting(bytes: Bytes): AsyncGenerator<Uint8Array> {
    for await (const chunk of bytes) {
      this.bytes += chunk.length;
      yield chunk;
    }
  }

  /** Where the next row is. Two places become one where there are too many rows for all. */
  private get place(): number {
    if (this.rows >= PLACES * this.width) {
      for (const { sorts } of this.columns) for (const { places } of sorts) halve(places);
      for (const { places } of this.notes.values()) halve(places);
      for (let i = 0; i < PLACES; i++) {
        const two = i < PLACES / 2 ? [...this.placeRows[2 * i], ...this.placeRows[2 * i + 1]] : [];
        this.placeRows[i] = two.slice(0, OF_A_PLACE);
      }
      this.width *= 2;
    }
    return Math.floor(this.rows / this.width);
  }

  /** Takes what was noticed of rows; of those that are not there any more it is noticed where they would be. */
  private takeNotes(pending: readonly Note[], rows: readonly FileRow[], lines: readonly number[]): void {
    if (pending.length === 0) return;
    const byLine = new Map(lines.map((line, i) => [line, rows[i]]));
    for (const { what, line, example } of pending) {
      const cells = byLine.get(line);
      this.note(this.sortOf(what), example, cells && { line, cells }, line, true);
      if (this.mendedLines.size < MENDED) this.mendedLines.add(line);
    }
  }

  private sortOf(what: NoteKind): Sort {
    let sort = this.notes.get(what);
    if (!sort) this.notes.set(what, (sort = newSort()));
    return sort;
  }

  /** @param told true of what is told by its line, too */
  private note(sort: Sort, text: string, row: SampleRow | undefined, line: number, told = false): void {
    sort.count++;
    sort.places[this.place]++;
    if (sort.examples.length < EXAMPLES && !sort.examples.some((one) => one.text === text && !told))
      sort.examples.push({ line, text: shortened(text) });
    if (row && sort.rows.length < OF_A_SORT && sort.rows.at(-1)?.line !== line) sort.rows.push(sample(row));
  }

  private addRow(cells: FileRow, line: number): void {
    const row = { line, cells };
    if (this.first.length < FIRST) this.first.push(sample(row));
    const there = this.placeRows[this.place];
    if (there.length < OF_A_PLACE) there.push(sample(row));
    if (!this.seen.add(cells)) this.note(this.sortOf('repeated'), cells.join(' · '), row, line);
    for (let i = 0; i < cells.length; i++) {
      const column = (this.columns[i] ??= new LookedColumn());
      const cell = cells[i];
      if (hasOuterSpaces(cell)) this.note(this.sortOf('spaces'), cell, row, line);
      column.add(cell, (sort, text) => this.note(sort, text, row, line));
      if (cell.includes('\n')) {
        this.note(this.sortOf('line break'), cell.replaceAll('\n', ' ⏎ '), row, line);
      }
    }
    this.rows++;
  }

  private columnOf(i: number, found: KindGuess): Column {
    return columnOf(this.choices.columns?.[i]?.name ?? this.table!.columns[i], found, this.choices, i);
  }

  private tallyOf(i: number): KindTally {
    return (this.columns[i] ??= new LookedColumn()).tally;
  }

  private columnLook(name: string, i: number): ColumnLook {
    const tally = this.tallyOf(i);
    const found = tally.guess(TOLERATED);
    const example = this.first.map(({ cells }) => cells[i] ?? '').reduce((a, b) => (b.length > a.length ? b : a), '');
    return {
      name,
      found,
      column: this.columnOf(i, found),
      taken: this.choices.columns?.[i]?.take !== false,
      filled: tally.filled,
      values: tally.choiceCount,
      example: shortened(example),
    };
  }

  /** Gives what is known so far. @throws Error before there is a table */
  look(): Look {
    const { table } = this;
    if (!table) throw new Error('nothing has been read');
    const columns = table.columns.map((name, i) => this.columnLook(name, i));
    let room = SPELLINGS_ROOM;
    const places = new Uint32Array(PLACES);
    const troubles: Trouble[] = [];
    const tell = (what: Trouble['what'], column: number, sort: Sort): void => {
      if (sort.count === 0) return;
      troubles.push({ what, column, count: sort.count, examples: sort.examples });
      if (!FINE.includes(what)) sort.places.forEach((count, i) => (places[i] += count));
    };
    columns.forEach(({ column, taken, found }, i) => {
      const way = wayOf(column);
      if (!taken) return;
      const tellOfIt = (what: Trouble['what'], sort: Sort): void => tell(what, i, sort);
      if (way) {
        tellOfIt('misfit', this.misfitsOf(i, way));
        tellOfIt('no value', this.columns[i].noValues);
      }
      this.tellOrder(i, column, found, tellOfIt);
      this.tellCentury(i, column, found, tellOfIt);
      this.tellUnits(i, column, found, tellOfIt);
      if (column.kind !== 'text' && column.kind !== 'choice') return;
      const { pairs, cells, bytes } = this.columns[i].spellings.alike(room);
      room -= bytes;
      if (pairs.length === 0) return;
      const examples = pairs.slice(0, EXAMPLES).map(([written, usual]) => ({ line: 0, text: `${written} → ${usual}` }));
      troubles.push({ what: 'near same', column: i, count: cells, examples, spellings: pairs });
    });
    for (const [what, sort] of this.notes) tell(what, -1, sort);
    troubles.sort((a, b) => Number(FINE.includes(a.what)) - Number(FINE.includes(b.what)));
    return {
      found: table.found(),
      columns,
      rows: this.rows,
      bytes: this.bytes,
      done: this.done,
      troubles,
      places: [...places.subarray(0, Math.ceil(this.rows / this.width))],
    };
  }

  private misfitsOf(i: number, way: Way): Sort {
    const column = this.columns[i];
    return column.misfits.get(way) ?? { ...newSort(), count: column.tally.misfits(way) };
  }

  /** Asks whether days come before months where no cell tells, and says it where some do. */
  private tellOrder(
    i: number,
    column: Column,
    found: KindGuess,
    tell: (what: Trouble['what'], sort: Sort) => void,
  ): void {
    if (found.problems.length > 0 && column.kind === 'text')
      tell('open order', {
        ...newSort(),
        count: this.columns[i].tally.filled,
        examples: [{ line: 0, text: this.columns[i].tally.openDate ?? '' }],
      });
    if (column.kind !== 'date' || !column.dateOrder || column.dateOrder === 'year first') return;
    const other = column.dateOrder === 'day first' ? 'month first' : 'day first';
    const only = this.misfitsOf(i, other).count - this.misfitsOf(i, column.dateOrder).count;
    if (only > 0) tell('order', { ...newSort(), count: only });
  }

  /** Asks which century years of two digits are of where that is not said, and tells it where it is. */
  private tellCentury(
    i: number,
    column: Column,
    found: KindGuess,
    tell: (what: Trouble['what'], sort: Sort) => void,
  ): void {
    const { shortYears } = this.columns[i];
    if (column.kind !== 'date' && !found.lacksCentury) return;
    const isSaid = column.kind === 'date' && this.choices.columns?.[i]?.firstYear !== undefined;
    tell(isSaid ? 'century' : 'short years', shortYears);
  }

  /** The currency of numbers is told; where they have several it is asked whether they are numbers all the same. */
  private tellUnits(
    i: number,
    column: Column,
    found: KindGuess,
    tell: (what: Trouble['what'], sort: Sort) => void,
  ): void {
    const { units, filled } = this.columns[i].tally;
    const examples = [...units.keys()].slice(0, EXAMPLES).map((text) => ({ line: 0, text }));
    if (column.kind === 'number' && units.size > 0)
      tell('unit', { ...newSort(), count: [...units.values()].reduce((sum, count) => sum + count), examples });
    else if (column.kind === 'text' && found.mixesUnits) tell('units', { ...newSort(), count: filled, examples });
  }

  /** Rows to be shown. */
  rowsOf(showing: Showing): LookRow[] {
    const columns = this.table!.columns.map((_, i) => this.columnOf(i, this.tallyOf(i).guess(TOLERATED)));
    return this.samples(showing, columns).map(({ line, cells }) => {
      const tidied = columns.map((_, i) => this.tidier.cell(cells[i] ?? '', i));
      return {
        line,
        cells: columns.map((column, i) => shownText(tidied[i], column)),
        wrong: columns.flatMap((column, i) => (isWrong(tidied[i], column) ? [i] : [])),
        mended: this.mendedLines.has(line) || tidied.some((cell, i) => cell !== (cells[i] ?? '')),
      };
    });
  }

  private samples(showing: Showing, columns: readonly Column[]): readonly SampleRow[] {
    if (showing === 'first') return this.first;
    if ('place' in showing) return this.placeRows[showing.place] ?? [];
    if (showing.what === 'misfit') {
      const way = wayOf(columns[showing.column]);
      return way ? this.misfitsOf(showing.column, way).rows : [];
    }
    if (showing.what === 'no value') return this.columns[showing.column].noValues.rows;
    if (showing.what === 'short years' || showing.what === 'century')
      return this.columns[showing.column].shortYears.rows;
    return this.notes.get(showing.what as NoteKind)?.rows ?? [];
  }

  /** The first rows as they stand in the file, for a box to be tried on. */
  get firstRows(): readonly SampleRow[] {
    return this.first;
  }
}

/** Copies a row for a sample, which stays when the rest of the file has gone by. */
function sample({ line, cells }: SampleRow): SampleRow {
  return { line, cells: cells.map((cell) => ownText(cell.length > SHOWN ? `${cell.slice(0, SHOWN)}…` : cell)) };
}

function isWrong(cell: string, column: Column): boolean {
  const way = wayOf(column);
  return way !== undefined && !isBlank(cell) && !fits(cell, way);
}
