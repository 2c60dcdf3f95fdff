/**
 * The merging of a row that is there by a refresh: cell by cell from what the last file said, what this one says, and what stands here.
 * Nothing here reads or writes.
 */
import type { RefreshClash, RefreshQuery, TableSummary } from '@usual-needle/contract';
import { readSaid, saidAt, saidOf, type RowSaid, type Said } from '../data/said.js';

/** Clashes that are shown. */
const SHOWN = 200;

/** How a table is refreshed. */
export interface RefreshBy {
  /** Names of key columns; without any, the places of rows tell which is which. */
  readonly key: readonly string[];
  readonly gone: RefreshQuery['gone'];
  readonly clashes: RefreshQuery['clashes'];
  /** `row:column` of each clash for which the other one is taken. */
  readonly except: ReadonlySet<string>;
  readonly unclear: RefreshQuery['unclear'];
  readonly removed: RefreshQuery['removed'];
  /** Nothing is refused that can be shown. */
  readonly preview: boolean;
}

/** Cells were changed here and in the file, and that is to be refused. */
export class ClashesRefused extends Error {
  constructor(
    readonly count: number,
    readonly clashes: readonly RefreshClash[],
  ) {
    super(`${count} ${count === 1 ? 'cell was' : 'cells were'} changed here, and to something else in the file.`);
  }
}

export class Merging {
  /** Cells that the file did not change, and that stay as they were changed here. */
  mended = 0;
  clashing = 0;
  readonly clashes: RefreshClash[] = [];

  /** @param ofTable, added see `Places` */
  constructor(
    private readonly table: TableSummary,
    private readonly ofTable: readonly number[],
    private readonly added: readonly number[],
    private readonly by: RefreshBy,
  ) {}

  /** The cells of a row that the table does not have. */
  fresh(row: readonly string[]): string[] {
    return [...this.ofTable.map((from) => (from < 0 ? '' : row[from])), ...this.added.map((from) => row[from])];
  }

  /** @param told what tells the row, in words */
  merged(
    now: RowSaid & { readonly id: number },
    row: readonly string[],
    told: string,
  ): { cells: string[]; said: Said | null } {
    const said = readSaid(now.said);
    const entries: [string, string][] = [];
    const cells = this.ofTable.map((from, place) => {
      const ours = now.cells[place] ?? '';
      const before = saidAt(said, now.cells, place);
      const theirs = from < 0 ? before : row[from];
      entries.push([String(place), theirs]);
      if (ours === theirs || ours === before) return theirs;
      if (theirs === before) {
        if (from >= 0) this.mended++;
        return ours;
      }
      return this.clash(now.id, place, { key: told, said: before, theirs, ours }) === 'ours' ? ours : theirs;
    });
    cells.push(...this.added.map((from) => row[from]));
    return { cells, said: saidOf(entries, cells) };
  }

  private clash(
    row: number,
    place: number,
    texts: Pick<RefreshClash, 'key' | 'said' | 'theirs' | 'ours'>,
  ): 'ours' | 'theirs' {
    const column = this.table.columns[place].name;
    const usual = this.by.clashes === 'theirs' ? 'theirs' : 'ours';
    const taken = this.by.except.has(`${row}:${column}`) ? (usual === 'ours' ? 'theirs' : 'ours') : usual;
    this.clashing++;
    if (this.clashes.length < SHOWN) this.clashes.push({ row, column, ...texts, taken });
    return taken;
  }

  /** @throws ClashesRefused where clashes are refused, and there are some */
  done(): void {
    if (!this.by.preview && this.by.clashes === 'refuse' && this.clashing > 0)
      throw new ClashesRefused(this.clashing, this.clashes);
  }
}
