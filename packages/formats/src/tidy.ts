/**
 * The tidying of rows while they are brought in, as it was chosen: spaces around cells, words that say that there is no value,
 * spellings of the same value, years of two digits, and rows that are there already.
 */
import type { FileChoices } from '@usual-needle/contract';
import { isBlank, saysNoValue, withWholeYear } from '@usual-needle/engine';
import type { Batch, FileRow } from './mend.js';
import { RowSet } from './row-set.js';

type FileColumnChoice = NonNullable<FileChoices['columns']>[number];
type ColumnTidying = Pick<FileColumnChoice, 'firstYear' | 'noValue' | 'instead'>;

interface Tidying extends ColumnTidying {
  /** Spellings, by what is written in their place. */
  readonly spellings: ReadonlyMap<string, string>;
}

/** Picks what is tidied in the cells of a column out of all that is chosen for it. */
export function tidyingOf({ firstYear, noValue, instead }: ColumnTidying = {}): ColumnTidying {
  return { firstYear, noValue, instead };
}

/** Whether anything is tidied in the cells of a column. */
export function isTidied({ firstYear, noValue, instead = [] }: ColumnTidying = {}): boolean {
  return firstYear !== undefined || noValue === 'blank' || instead.length > 0;
}

export function hasOuterSpaces(cell: string): boolean {
  return cell !== cell.trim() && !isBlank(cell);
}

export class Tidier {
  private readonly columns: readonly (Tidying | undefined)[];
  private readonly trims: boolean;
  private readonly seen: RowSet | undefined;

  constructor({ columns = [], spaces, repeated }: FileChoices) {
    this.trims = spaces === 'trim';
    this.seen = repeated === 'leave out' ? new RowSet() : undefined;
    this.columns = columns.map((column) =>
      isTidied(column)
        ? { ...tidyingOf(column), spellings: new Map(column.instead as [string, string][] | undefined) }
        : undefined,
    );
  }

  /** Whether anything is to be done. */
  get isAsked(): boolean {
    return this.trims || this.seen !== undefined || this.columns.some((column) => column !== undefined);
  }

  /** A cell as it is brought in. @param i place of its column in the file */
  cell(text: string, i: number): string {
    const trimmed = this.trims && hasOuterSpaces(text) ? text.trim() : text;
    const column = this.columns[i];
    if (!column) return trimmed;
    if (column.noValue === 'blank' && saysNoValue(trimmed)) return '';
    const spelt = column.spellings.get(trimmed.trim()) ?? trimmed;
    return column.firstYear === undefined ? spelt : (withWholeYear(spelt, column.firstYear) ?? spelt);
  }

  /** Rows as they are brought in, without those that have been before if they are to be left out. */
  batch({ rows, lines }: Batch): Batch {
    const tidied: FileRow[] = [];
    const kept: number[] = [];
    rows.forEach((row, at) => {
      const cells = row.map((text, i) => this.cell(text, i));
      if (this.seen && !this.seen.add(cells)) return;
      tidied.push(cells);
      kept.push(lines[at]);
    });
    return { rows: tidied, lines: kept };
  }
}

/** Batches as they are brought in. */
export async function* tidied(batches: AsyncIterable<Batch>, tidier: Tidier): AsyncGenerator<Batch, void, undefined> {
  for await (const batch of batches) yield tidier.batch(batch);
}
