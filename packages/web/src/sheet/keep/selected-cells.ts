import { inject, Injectable } from '@angular/core';
import { LIMITS, WINDOW_LIMIT, type AnswerRow } from '@usual-needle/contract';
import { firstValueFrom } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { plural, rowsCounted } from '../../services/numbers';
import { Remarks } from '../../services/remarks';
import { type Block, Selection } from '../grid/selection';
import { Answers } from '../state/answers';
import { rawCell } from '../state/fetched-rows';
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
  /** Place of the first row in the list. */
  readonly top: number;
  readonly columns: readonly string[];
  readonly rows: readonly { readonly id: number; readonly was: string[] }[];
}

/** What the selected cells hold, as stored, with what is on its way to them. */
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

  /** What a cell of a fetched row holds, as stored, or is to hold once its edit is through. */
  rawOf(row: AnswerRow & { readonly columns: readonly string[] }, column: string): string {
    const over = this.edits.over().get(row.id)?.get(column);
    if (over) return over.text;
    return rawCell(row, row.columns.indexOf(column));
  }

  /** Rows of the list, whether they are on show or not; undefined if they are too many, or cannot be had. */
  async rowsIn({ top, bottom }: Pick<Block, 'top' | 'bottom'>): Promise<RawRow[] | undefined> {
    if (this.areTooMany(bottom - top + 1)) return undefined;
    const columns = this.columns();
    const rows: RawRow[] = [];
    try {
      for (let at = top; at <= bottom;) {
        const fetched = this.answers.rowAt(at);
        if (fetched) {
          rows.push({ id: fetched.id, cells: columns.map((column) => this.rawOf(fetched, column)) });
          at++;
          continue;
        }
        const { rows: found } = await firstValueFrom(
          this.answers.fetchRows(at, Math.min(WINDOW_LIMIT, bottom - at + 1)),
        );
        if (found.length === 0) break;
        for (const row of found)
          rows.push({ id: row.id, cells: columns.map((column) => this.rawOf({ ...row, columns }, column)) });
        at += found.length;
      }
    } catch (error) {
      this.remarks.say(errorWords(error));
      return undefined;
    }
    return rows;
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
    const block = this.selection.block();
    const rows = block && (await this.rowsIn(block));
    if (!rows) return undefined;
    const cut = <T>(list: readonly T[]): T[] => list.slice(block.left, block.right + 1);
    return {
      top: block.top,
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
