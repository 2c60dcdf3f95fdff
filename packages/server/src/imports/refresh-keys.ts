/**
 * Keys of rows, here and in a newer file, and which row is which by them. A key that is blank, or stands in several rows, tells none
 * apart: such rows are shown, and refused, or the first of each is taken, or they are left as they are here.
 */
import { createHash } from 'node:crypto';
import type { RefreshQuery, StoredRow, TableSummary, UnclearRow } from '@usual-needle/contract';
import { FileProblem } from '@usual-needle/formats';

/** A key of so many UTF-16 units is known by its digest, which no cell is: the database holds no `\0`. */
const LONG = 16_000;
/** Unclear rows that are shown. */
const SHOWN = 200;

/** The counts and the first of some unclear rows. */
interface Unclear {
  readonly file: number;
  readonly table: number;
  readonly rows: readonly UnclearRow[];
}

export class Keys {
  /** The first row of the table that has each key. */
  private readonly ids = new Map<string, number>();
  /** The line of the first row of the file that has each key. */
  private readonly seen = new Map<string, number>();
  /** Keys that tell no row, where such rows are left as they are. */
  private readonly dropped = new Set<string>();
  /** Keys of rows that were removed here. Without keys nothing tells which row of a file one was. */
  private readonly removed = new Set<string>();
  private readonly counts = { file: 0, table: 0 };
  private readonly rows: UnclearRow[] = [];
  private place = 0;
  /** Rows of the table that the file has not named. */
  readonly gone = new Set<number>();

  constructor(
    private readonly table: TableSummary,
    private readonly places: readonly number[],
    private readonly way: RefreshQuery['unclear'],
  ) {}

  /** Words for the key columns. */
  private get column(): string {
    return this.places.map((i) => this.table.columns[i].name).join(' and ');
  }

  private keyOf(cells: readonly string[]): string {
    const { places } = this;
    const key = places.length === 1 ? (cells[places[0]] ?? '') : JSON.stringify(places.map((i) => cells[i] ?? ''));
    // V8 tells long strings of one length apart only by comparing them, each with all others.
    return key.length < LONG ? key : `\0${createHash('sha256').update(key).digest('base64')}`;
  }

  /** A key as it is told. */
  private words(cells: readonly string[]): string {
    return this.places.map((i) => cells[i] ?? '').join(' · ');
  }

  private isBlank(cells: readonly string[]): boolean {
    return this.places.every((i) => (cells[i] ?? '').trim() === '');
  }

  private note(row: UnclearRow): void {
    this.counts[row.where]++;
    if (this.rows.length < SHOWN) this.rows.push(row);
  }

  /** A row of the table; in order where there is no key. */
  here({ id, cells }: Pick<StoredRow, 'id' | 'cells'>): void {
    if (this.places.length === 0) {
      this.ids.set(String(this.ids.size), id);
      this.gone.add(id);
      return;
    }
    const key = this.keyOf(cells);
    const blank = this.isBlank(cells);
    if (!blank && !this.ids.has(key)) {
      this.ids.set(key, id);
      this.gone.add(id);
      return;
    }
    this.note({ where: 'table', why: blank ? 'blank' : 'repeated', at: id, key: this.words(cells), cells });
    if (!blank && this.way !== 'first') this.drop(key);
  }

  /** Leaves all rows of a key as they are here. */
  private drop(key: string): void {
    this.dropped.add(key);
    const id = this.ids.get(key);
    if (id !== undefined) this.gone.delete(id);
  }

  isDropped(key: string): boolean {
    return this.dropped.has(key);
  }

  /** A row that was removed here, as it was then. */
  wasRemoved(cells: readonly string[]): void {
    if (this.places.length > 0 && !this.isBlank(cells)) this.removed.add(this.keyOf(cells));
  }

  /** Tells whether a key is that of a row that was removed here. */
  isRemoved(key: string): boolean {
    return this.removed.has(key);
  }

  /** Gives what tells a row, in words. */
  toldBy(key: string): string {
    return this.places.length === 0
      ? `row ${Number(key) + 1}`
      : this.places.length === 1
        ? key
        : (JSON.parse(key) as string[]).join(' · ');
  }

  /**
   * A row of the file.
   * @param cells by the places of the table's columns
   * @param takeBack is called for a key that has been planned for, and that tells no row after all
   * @returns its key, and the row of the table that has it; undefined if the row is passed over
   */
  incoming(
    cells: readonly string[],
    line: number,
    takeBack: (key: string) => void,
  ): { key: string; id: number | undefined } | undefined {
    const key = this.places.length === 0 ? String(this.place++) : this.keyOf(cells);
    if (this.places.length > 0) {
      const blank = this.isBlank(cells);
      if (blank || this.seen.has(key)) {
        this.note({ where: 'file', why: blank ? 'blank' : 'repeated', at: line, key: this.words(cells), cells });
        if (!blank && this.way !== 'first' && !this.dropped.has(key)) {
          takeBack(key);
          this.drop(key);
        }
        return undefined;
      }
      this.seen.set(key, line);
      if (this.dropped.has(key)) return undefined;
    }
    const id = this.ids.get(key);
    if (id !== undefined) this.gone.delete(id);
    return { key, id };
  }

  /** @throws FileProblem where unclear rows are refused, and there are some */
  done(preview: boolean): void {
    const { file, table } = this.counts;
    if (preview || this.way !== 'refuse' || file + table === 0) return;
    const [first] = this.rows;
    const inFile = this.rows.filter(({ where }) => where === 'file');
    const told = this.rows.slice(0, 5).map(({ where, why, at, key, cells }) => {
      if (where === 'table')
        return why === 'blank'
          ? `a row of ${this.table.name} has nothing in ${this.column}`
          : `“${key}” stands in several rows of ${this.table.name}`;
      const before = this.seen.get(this.keyOf(cells));
      return why === 'blank'
        ? `line ${at} has nothing in ${this.column}`
        : `lines ${before} and ${at} have the same ${this.column}: “${key}”`;
    });
    const more = file + table > told.length ? `, and ${file + table - told.length} more` : '';
    const text = `${told.join('; ')}${more}.`;
    throw new FileProblem(
      `${text[0].toUpperCase()}${text.slice(1)} ${this.column} cannot tell such rows apart. Say “unclear=first” to take the first of each, or “unclear=leave” to leave them as they are here; or choose another key.`,
      inFile.length > 0 ? inFile[0].at : first.where === 'file' ? first.at : undefined,
    );
  }

  /** @param shown cells of a row as the table shows them */
  unclear(shown: (cells: readonly string[]) => string[]): Unclear {
    return { ...this.counts, rows: this.rows.map((row) => ({ ...row, cells: shown(row.cells) })) };
  }
}
