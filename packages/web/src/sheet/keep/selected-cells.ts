import { inject, Injectable } from '@angular/core';
import { LIMITS, WINDOW_LIMIT, type AnswerRow } from '@usual-needle/contract';
import { firstValueFrom } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { plural, rowsCounted } from '../../services/numbers';
import { Remarks } from '../../services/remarks';
import { Selection } from '../grid/selection';
import { Answers } from '../state/answers';
import { type FetchedRow, rawCell } from '../state/fetched-rows';
import { SheetStore } from '../state/sheet-store';
import { textOfCells } from './cells-text';
import { Edits } from './edits';

/** A row of the table with what it holds, as stored, in the columns on show. */
interface RawRow {
  readonly id: number;
  readonly cells: readonly string[];
}

/** The block that is selected: its columns, and of each row what it holds in them. */
interface Selected {
  readonly columns: readonly string[];
  readonly rows: readonly { readonly id: number; readonly was: string[] }[];
}

/** The contents of the selected cells, as stored, with what is on its way to them. */
@Injectable()
export class SelectedCells {
  private readonly answers = inject(Answers);
  private readonly edits = inject(Edits);
  private readonly selection = inject(Selection);
  private readonly store = inject(SheetStore);
  private readonly remarks = inject(Remarks);

  columns(): string[] {
    return this.store.layout().map(({ name }) => name);
  }

  /** Gives what a cell of a fetched row holds, as stored, or is to hold once its edit is through. */
  rawOf(row: AnswerRow & { readonly columns: readonly string[] }, column: string): string {
    const over = this.edits.over().get(row.id)?.get(column);
    if (over) return over.text;
    return rawCell(row, row.columns.indexOf(column));
  }

  /** A row as it was fetched, with what is on its way to it. */
  private rawRow(row: FetchedRow): RawRow {
    return { id: row.id, cells: this.columns().map((column) => this.rawOf(row, column)) };
  }

  /**
   * Rows by their ids, in that order, whether they are on show or not. Those that are in the list no more are left out.
   * @returns undefined if they are too many, or cannot be had
   */
  async rowsOf(ids: readonly (number | undefined)[]): Promise<RawRow[] | undefined> {
    if (this.areTooMany(ids.length)) return undefined;
    const known = ids.flatMap((id) => id ?? []);
    if (known.length < ids.length) {
      this.remarks.say('The selected rows are still being fetched. Try it again in a moment.');
      return undefined;
    }
    const found = new Map<number, RawRow>();
    for (const id of known) {
      const row = this.answers.rowOf(id);
      if (row) found.set(id, this.rawRow(row));
    }
    try {
      await this.fetch(new Set(known.filter((id) => !found.has(id))), found);
    } catch (error) {
      this.remarks.say(errorWords(error));
      return undefined;
    }
    const missing = known.length - found.size;
    if (missing > 0)
      this.remarks.say(
        `${rowsCounted(missing)} of those selected ${missing === 1 ? 'is' : 'are'} not in the list any more.`,
      );
    return known.flatMap((id) => found.get(id) ?? []);
  }

  /** Looks through the list, about where the block is, for rows of these ids. */
  private async fetch(wanted: Set<number>, found: Map<number, RawRow>): Promise<void> {
    const columns = this.columns();
    const shown = this.answers.answer()?.shown ?? 0;
    // Others may have put rows before them, or taken some away, since the block was made.
    for (
      let at = Math.max(0, (this.selection.top() ?? 0) - WINDOW_LIMIT / 2), passed = 0;
      wanted.size > 0 && at < shown;
    ) {
      const { rows } = await firstValueFrom(this.answers.fetchRows(at, WINDOW_LIMIT));
      for (const row of rows) if (wanted.delete(row.id)) found.set(row.id, this.rawRow({ ...row, columns }));
      at += rows.length;
      passed += rows.length;
      if (rows.length === 0 || passed > 2 * LIMITS.edited) break;
    }
  }

  /** Reads so many rows of the list from one on, as it is now. */
  async rowsFrom(id: number | undefined, top: number, count: number): Promise<RawRow[] | undefined> {
    if (id === undefined || this.areTooMany(count)) return undefined;
    const columns = this.columns();
    const rows: RawRow[] = [];
    try {
      while (rows.length < count) {
        const at = top + rows.length;
        const there = this.answers.rowAt(at);
        if (there) rows.push(this.rawRow(there));
        else {
          const fetched = await firstValueFrom(this.answers.fetchRows(at, Math.min(WINDOW_LIMIT, count - rows.length)));
          if (fetched.rows.length === 0) break;
          for (const row of fetched.rows) rows.push(this.rawRow({ ...row, columns }));
        }
      }
    } catch (error) {
      this.remarks.say(errorWords(error));
      return undefined;
    }
    if (rows.length > 0 && rows[0].id === id) return rows;
    this.remarks.say('The rows moved meanwhile. Try it again.');
    return undefined;
  }

  /** Says so if rows are more than are edited or copied at once. */
  areTooMany(count: number): boolean {
    const most = LIMITS.edited;
    if (count > most)
      this.remarks.say(`${rowsCounted(count)} are too many at once: it takes ${rowsCounted(most)} at most.`);
    return count > most;
  }

  /** The selected rows with what they hold in the selected columns; undefined if nothing is selected, or too much. */
  async block(): Promise<Selected | undefined> {
    const span = this.selection.span();
    const ids = this.selection.rows();
    const rows = span && ids.length > 0 ? await this.rowsOf(ids) : undefined;
    if (!rows || !span) return undefined;
    const cut = <T>(list: readonly T[]): T[] => list.slice(span.left, span.right + 1);
    return {
      columns: cut(this.columns()),
      rows: rows.map(({ id, cells }) => ({ id, was: cut(cells) })),
    };
  }

  /** The selected cells as text; undefined if there are none, or too many. */
  async copied(): Promise<string | undefined> {
    const selected = await this.block();
    if (!selected) return undefined;
    const cells = selected.rows.map(({ was }) => was);
    const many = selected.columns.length * cells.length;
    if (many > 1) this.remarks.say(`${plural(many, 'cell')} copied.`);
    // One cell alone is copied as it is.
    return many === 1 ? cells[0][0] : textOfCells(cells);
  }
}
