import { computed, inject, Injectable, signal } from '@angular/core';
import { LIMITS, type EditKind, type EditRequest } from '@usual-needle/contract';
import { listed } from '../../common/sentence';
import { plural, rowsCounted } from '../../services/numbers';
import { Remarks } from '../../services/remarks';
import { Selection } from '../grid/selection';
import { Answers } from '../state/answers';
import { SheetStore } from '../state/sheet-store';
import { cellsOfText } from './cells-text';
import { Edits } from './edits';
import { givenBy } from './new-row';
import { SelectedCells } from './selected-cells';

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

/** Editing rows where they are found: cells, blocks of cells, whole rows. What it writes goes through `Edits`. */
@Injectable()
export class Keeper {
  private readonly answers = inject(Answers);
  private readonly edits = inject(Edits);
  private readonly selected = inject(SelectedCells);
  private readonly selection = inject(Selection);
  private readonly store = inject(SheetStore);
  private readonly remarks = inject(Remarks);

  readonly canEdit = computed(() => this.store.changeable() && this.store.table() !== undefined);
  readonly cell = signal<OpenCell | undefined>(undefined);
  /** Key of the added row that is to be gone to once it is written, and its id from then on. */
  readonly awaited = signal<string | undefined>(undefined);
  readonly goal = signal<number | undefined>(undefined);

  private isBorrowed(name: string): boolean {
    return this.store.table()?.columns.some((column) => column.name === name && column.borrows) ?? false;
  }

  /** Place of the first column that can be written to; 0 without one. */
  firstOwn(): number {
    return Math.max(
      0,
      this.selected.columns().findIndex((name) => !this.isBorrowed(name)),
    );
  }

  private sayBorrowed(names: readonly string[]): void {
    const [is, stays] = names.length === 1 ? ['is', 'stays as it is'] : ['are', 'stay as they are'];
    this.remarks.say(`${listed(names)} ${is} borrowed from another table and ${stays} here. The record leads there.`);
  }

  /** Opens the cell gone to. @param typing true if a key is on its way into it, which takes the place of what it held */
  open(typing = false): boolean {
    const index = this.selection.at();
    const column = this.selected.columns()[this.selection.column()] as string | undefined;
    const row = index === undefined ? undefined : this.answers.rowAt(index);
    if (!this.canEdit() || !row || index === undefined || column === undefined) return false;
    if (this.isBorrowed(column)) {
      this.sayBorrowed([column]);
      return false;
    }
    this.selection.single();
    const was = this.selected.rawOf(row, column);
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

  /** Puts copied cells in from the cell gone to on; one cell fills the whole block. What goes beyond the last row is added. */
  async paste(text: string): Promise<void> {
    const block = this.selection.block();
    if (!this.canEdit() || !block) return;
    const pasted = cellsOfText(text);
    const one = pasted.length === 1 && pasted[0].length === 1 ? pasted[0][0] : undefined;
    const height = one === undefined ? pasted.length : block.bottom - block.top + 1;
    const width = one === undefined ? Math.max(...pasted.map((cells) => cells.length)) : block.right - block.left + 1;
    const columns = this.selected.columns().slice(block.left, block.left + width);
    const there = Math.max(0, Math.min(height, (this.answers.answer()?.shown ?? 0) - block.top));
    if (this.selected.areTooMany(height)) return;
    const rows = there > 0 ? await this.selected.rowsIn({ top: block.top, bottom: block.top + there - 1 }) : [];
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
    const selected = this.canEdit() ? await this.selected.block() : undefined;
    if (!selected) return;
    const [first, ...rest] = selected.rows;
    const changed = rest.map((row) => ({ ...row, now: first.was }));
    this.change('filled', selected.columns, changed, selected.top + 1);
  }

  /** Makes the selected cells blank. */
  async blank(): Promise<void> {
    const selected = this.canEdit() ? await this.selected.block() : undefined;
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
        : this.selected
            .columns()
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
    const rows = this.canEdit() && seen !== undefined ? (await this.selected.block())?.rows : undefined;
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
