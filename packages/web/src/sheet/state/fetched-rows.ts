import { signal } from '@angular/core';
import type { AnswerRow, SearchAnswer } from '@usual-needle/contract';

/** A row as it was fetched, with the columns that its cells are of: those on show may be others by now. */
export interface FetchedRow extends AnswerRow {
  readonly columns: readonly string[];
}

/** Gives what a cell holds as it is stored; shown, it may be another text. @param at its place among the columns asked for */
export function rawCell({ cells, raw }: Pick<AnswerRow, 'cells' | 'raw'>, at: number): string {
  return raw?.find(([place]) => place === at)?.[1] ?? cells[at] ?? '';
}

/** Far more than a screen is kept for scrolling back; a million rows are not. */
const MOST = 5_000;

/** The rows of the answer on show that were fetched, by their place in the list. */
export class FetchedRows {
  private readonly rows = new Map<number, FetchedRow>();
  /** Where rows were fetched last, by their ids; something else may be there by now. */
  private readonly places = new Map<number, number>();
  private readonly version = signal(0);

  clear(): void {
    this.rows.clear();
    this.places.clear();
  }

  keep(answer: SearchAnswer, columns: readonly string[]): void {
    if (this.rows.size > MOST) this.clear();
    answer.rows.forEach((row, i) => {
      this.rows.set(answer.offset + i, { ...row, columns });
      this.places.set(row.id, answer.offset + i);
    });
    this.version.update((version) => version + 1);
  }

  has(index: number): boolean {
    return this.rows.has(index);
  }

  /** The row of an id, if it was fetched. */
  byId(id: number): FetchedRow | undefined {
    const index = this.indexOf(id);
    return index === undefined ? undefined : this.rows.get(index);
  }

  /** Finds where the row of an id is, if it was fetched. */
  indexOf(id: number): number | undefined {
    const index = this.places.get(id);
    return index !== undefined && this.rows.get(index)?.id === id ? index : undefined;
  }

  /** The row at a place; reading it in a computed follows its arrival. */
  at(index: number): FetchedRow | undefined {
    this.version();
    return this.rows.get(index);
  }
}
