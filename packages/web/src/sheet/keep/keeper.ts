import { computed, inject, Injectable, signal } from '@angular/core';
import { LIMITS, WINDOW_LIMIT, type AnswerRow, type EditKind, type EditRequest } from '@usual-needle/contract';
import { firstValueFrom } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { listed } from '../../common/sentence';
import { plural, rowsCounted } from '../../services/numbers';
import { Remarks } from '../../services/remarks';
import { type Block, Selection } from '../grid/selection';
import { Answers } from '../state/answers';
import { rawCell } from '../state/fetched-rows';
import { SheetStore } from '../state/sheet-store';
import { cellsOfText, textOfCells } from './cells-text';
import { Edits } from './edits';
import { givenBy } from './new-row';

/** Letters of a record's first cell that it is called by. */
const CALLED = 40;

/** A cell that is open for writing. */
export interface OpenCell {
  readonly id: number;
  /** Place of its row in the list. */
  readonly index: number;
  readonly column: string;
  /** What it held when it was opened. */
  readonly was: string;
  /** What is in the field to begin with. */
  readonly text: string;
  /** True if it was opened by typing: then what is in it is replaced. */
  readonly typed: boolean;
}

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

/** Editing rows where they are found: cells, blocks of cells, whole rows. What it writes goes through `Edits`. */
@Injectable()
export class Keeper {
  private readonly answers = inject(Answers);
  private readonly edits = inject(Edits);
  private readonly selection = inject(Selection);
  private readonly store = inject(SheetStore);
  private readonly remarks = inject(Remarks);

  readonly canEdit = computed(() => this.store.changeable() && this.store.table() !== undefined);
  readonly cell = signal<OpenCell | undefined>(undefined);
  /** Key of the added row that is to be gone to once it is written, and its id from then on. */
  readonly awaited = signal<string | undefined>(undefined);
  readonly goal = signal<number | undefined>(undefined);

  private columns(): string[] {
    return this.store.layout().map(({ name }) => name);
  }

  private isBorrowed(name: string): boolean {
    return this.store.table()?.columns.some((column) => column.name === name && column.borrows) ?? false;
  }

  /** Place of the first column that can be written to; 0 without one. */
  firstOwn(): number {
    return Math.max(
      0,
      this.columns().findIndex((name) => !this.isBorrowed(name)),
    );
  }

  private sayBorrowed(names: readonly string[]): void {
    const [is, stays] = names.length === 1 ? ['is', 'stays as it is'] : ['are', 'stay as they are'];
    this.remarks.say(`${listed(names)} ${is} borrowed from another table and ${stays} here. The record leads there.`);
  }

  /** What a cell of a fetched row holds, as stored, or is to hold once its edit is through. */
  rawOf(row: AnswerRow & { readonly columns: readonly string[] }, column: string): string {
    const over = this.edits.over().get(row.id)?.get(column);
    if (over) return over.text;
    return rawCell(row, row.columns.indexOf(column));
  }

  /** Opens the cell gone to. @param typing true if a key is on its way into it, which takes the place of what it held */
  open(typing = false): boolean {
    const index = this.selection.at();
    const column = this.columns()[this.selection.column()] as string | undefined;
    const row = index === undefined ? undefined : this.answers.rowAt(index);
    if (!this.canEdit() || !row || index === undefined || column === undefined) return false;
    if (this.isBorrowed(column)) {
      this.sayBorrowed([column]);
      return false;
    }
    this.selection.single();
    const was = this.rawOf(row, column);
    this.cell.set({ id: row.id, index, column, was, text: typing ? '' : was, typed: typing });
    return true;
  }

  /** Writes the open cell and closes it. */
  commit(text: string): void {
    const cell = this.cell();
    this.cell.set(undefined);
    if (cell) this.write(cell.id, cell.column, cell.was, text, cell.index);
  }

  /** Rows came or went above the open cell: it stays the same cell. */
  shift(by: number): void {
    this.cell.update((cell) => cell && { ...cell, index: Math.max(0, cell.index + by) });
  }

  /** Leaves the open cell as it was. */
  leave(): void {
    this.cell.set(undefined);
  }

  /** Writes one cell. @param index place of its row in the list, where it stays */
  write(id: number, column: string, was: string, now: string, index?: number): void {
    this.change('edited', [column], [{ id, was: [was], now: [now] }], index);
  }

  /** What a record is called by: the first of its cells. */
  called(id: number): string {
    const row = this.answers.rowOf(id);
    const text = row?.cells[0]?.trim() ?? '';
    if (text === '') return 'a row';
    return text.length > CALLED ? `${text.slice(0, CALLED)}…` : text;
  }

  private async rowsIn({ top, bottom }: Pick<Block, 'top' | 'bottom'>): Promise<RawRow[] | undefined> {
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
  private areTooMany(count: number): boolean {
    const most = LIMITS.edited;
    if (count > most)
      this.remarks.say(`${rowsCounted(count)} are too many at once: it takes ${rowsCounted(most)} at most.`);
    return count > most;
  }

  /** The selected rows with what they hold in the selected columns; undefined if nothing is selected, or too much. */
  private async selected(): Promise<Selected | undefined> {
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
    const selected = await this.selected();
    if (!selected) return undefined;
    const cells = selected.rows.map(({ was }) => was);
    const many = selected.columns.length * cells.length;
    if (many > 1) this.remarks.say(`${plural(many, 'cell')} copied.`);
    // One cell alone is copied as it is.
    return many === 1 ? cells[0][0] : textOfCells(cells);
  }

  /** Puts copied cells in from the cell gone to on; one cell fills the whole block. What goes beyond the last row is added. */
  async paste(text: string): Promise<void> {
    const block = this.selection.block();
    if (!this.canEdit() || !block) return;
    const pasted = cellsOfText(text);
    const one = pasted.length === 1 && pasted[0].length === 1 ? pasted[0][0] : undefined;
    const height = one === undefined ? pasted.length : block.bottom - block.top + 1;
    const width = one === undefined ? Math.max(...pasted.map((cells) => cells.length)) : block.right - block.left + 1;
    const columns = this.columns().slice(block.left, block.left + width);
    const there = Math.max(0, Math.min(height, (this.answers.answer()?.shown ?? 0) - block.top));
    if (this.areTooMany(height)) return;
    const rows = there > 0 ? await this.rowsIn({ top: block.top, bottom: block.top + there - 1 }) : [];
    if (!rows) return;
    const cell = (row: number, column: number): string | undefined => one ?? pasted[row][column];
    const changed = rows.map(({ id, cells }, i) => ({
      id,
      was: columns.map((_, j) => cells[block.left + j]),
      now: columns.map((_, j) => cell(i, j) ?? null),
    }));
    const added = Array.from({ length: height - rows.length }, (_, i) =>
      columns.map((_, j) => cell(rows.length + i, j) ?? ''),
    );
    const lost = width - columns.length;
    if (lost > 0) this.remarks.say(`${plural(lost, 'column')} of what was pasted had no column to go to.`);
    this.change('pasted', columns, changed, block.top, added);
    if (one === undefined) {
      this.selection.goTo(block.top, block.left);
      this.selection.goTo(block.top + Math.max(1, rows.length) - 1, block.left + columns.length - 1, true);
    }
  }

  /** Fills the block with what is in its first row. */
  async fillDown(): Promise<void> {
    const selected = this.canEdit() ? await this.selected() : undefined;
    if (!selected) return;
    const [first, ...rest] = selected.rows;
    const changed = rest.map((row) => ({ ...row, now: first.was }));
    this.change('filled', selected.columns, changed, selected.top + 1);
  }

  /** Makes the selected cells blank. */
  async blank(): Promise<void> {
    const selected = this.canEdit() ? await this.selected() : undefined;
    if (!selected) return;
    const changed = selected.rows.map((row) => ({ ...row, now: row.was.map(() => '') }));
    this.change('edited', selected.columns, changed, selected.top);
  }

  private change(
    kind: EditKind,
    asked: readonly string[],
    rows: readonly { id: number; was: string[]; now: (string | null)[] }[],
    top?: number,
    addedRows: string[][] = [],
  ): void {
    const borrowed = asked.filter((name) => this.isBorrowed(name));
    if (borrowed.length > 0) this.sayBorrowed(borrowed);
    const own = <T>(cells: readonly T[]): T[] => cells.filter((_, i) => !borrowed.includes(asked[i]));
    const columns = own(asked);
    if (columns.length === 0) return;
    const changed = rows.map(({ id, was, now }) => ({ id, was: own(was), now: own(now) }));
    const added = addedRows.map(own);
    const differing = changed.filter(({ was, now }) => now.some((cell, i) => cell !== null && cell !== was[i]));
    if (differing.length + added.length === 0) return;
    const long = [...differing.map(({ now }) => now), ...added]
      .flat()
      .find((cell) => (cell?.length ?? 0) > LIMITS.cell);
    if (long) {
      this.remarks.say(
        `A cell holds ${LIMITS.cell.toLocaleString()} letters at most; one has ${long.length.toLocaleString()}.`,
      );
      return;
    }
    if (top !== undefined)
      changed.forEach(({ id }, i) => {
        if (this.answers.rowAt(top + i)) this.answers.stay(id, top + i);
      });
    const edit: Omit<EditRequest, 'key'> = {
      kind,
      columns: [...columns],
      changed: differing,
      ...(added.length > 0 && { added }),
    };
    const count = differing.length + added.length;
    const what = columns.length === 1 ? columns[0] : plural(columns.length, 'column');
    const did = kind === 'edited' ? 'Blanking' : kind === 'filled' ? 'Filling' : 'Pasting into';
    this.edits.add(
      edit,
      count === 1 && differing.length === 1
        ? `${what} of ${this.called(differing[0].id)}`
        : `${did} ${what} in ${rowsCounted(count)}`,
    );
  }

  /** Adds a row with the values of the pickers that are on, and goes to it. */
  addRow(): void {
    if (!this.canEdit()) return;
    const given = new Map<string, string>();
    for (const picker of this.store.pickers()) {
      const value = givenBy(picker);
      if (value !== undefined && !this.isBorrowed(picker.column)) given.set(picker.column, value);
    }
    const columns =
      given.size > 0
        ? [...given.keys()]
        : this.columns()
            .filter((name) => !this.isBorrowed(name))
            .slice(0, 1);
    const key = this.edits.add(
      { kind: 'added', columns, added: [columns.map((name) => given.get(name) ?? '')] },
      'Adding a row',
    );
    this.awaited.set(key);
  }

  /** The added row is written: it stays in the list after the row gone to, whatever it holds, until it is gone to. */
  goTo(id: number): void {
    this.awaited.set(undefined);
    this.answers.stay(id, (this.selection.at() ?? -1) + 1);
    this.goal.set(id);
  }

  /** Removes the rows of the block. */
  async removeRows(): Promise<void> {
    const seen = this.answers.answer()?.change;
    const rows = this.canEdit() && seen !== undefined ? (await this.selected())?.rows : undefined;
    if (!rows || rows.length === 0 || seen === undefined) return;
    const removed = rows.map(({ id }) => ({ id, seen }));
    const said = rows.length === 1 ? `Removing ${this.called(rows[0].id)}` : `Removing ${rowsCounted(rows.length)}`;
    this.selection.single();
    const key = this.edits.add({ kind: 'removed', columns: [], removed }, said);
    this.remarks.say(rows.length === 1 ? 'The row is removed.' : `${rowsCounted(rows.length)} are removed.`, {
      name: 'Undo it',
      does: () => void this.edits.undoEdit(key),
    });
  }
}
