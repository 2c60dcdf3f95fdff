import { computed, inject, Injectable, signal } from '@angular/core';
import { LIMITS, type EditKind, type EditRequest } from '@usual-needle/contract';
import { type ColumnId, columnIdOf, columnNameOf } from '../../common/column-ids';
import { listed } from '../../common/sentence';
import { plural, rowsCounted } from '../../services/numbers';
import { Remarks } from '../../services/remarks';
import { Selection } from '../grid/selection';
import { Answers } from '../state/answers';
import { SheetStore } from '../state/sheet-store';
import { CellsGone } from './cells-gone';
import { cellsOfText } from './cells-text';
import { Edits } from './edits';
import { givenBy } from './new-row';
import { SelectedCells } from './selected-cells';

/** Letters of a record's first cell that it is called by. */
const CALLED = 40;

/** A cell that is open for writing. */
interface OpenCell {
  readonly id: number;
  /** Place of its row in the list, for drawing. */
  readonly index: number;
  readonly columnId: ColumnId;
  /** The text that it held when it was opened. */
  readonly was: string;
  /** The text in the field to begin with. */
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
  private readonly gone = inject(CellsGone);

  readonly canEdit = computed(() => this.store.keepable() && this.store.table() !== undefined);
  readonly cell = signal<OpenCell | undefined>(undefined);
  /** Key of the added row that is to be gone to once it is written, and its id from then on. */
  readonly awaited = signal<string | undefined>(undefined);
  readonly goal = signal<number | undefined>(undefined);

  /** Tells whether the cells of a column stay as they are here: they are another table's, or this was not left open. */
  isFixed(name: string): boolean {
    return !this.store.mayEdit(name) || this.isBorrowed(name);
  }

  private isBorrowed(name: string): boolean {
    return this.store.table()?.columns.some((column) => column.name === name && column.borrows) ?? false;
  }

  /** Place of the first column that can be written to; 0 without one. */
  firstOwn(): number {
    return Math.max(
      0,
      this.selected.columns().findIndex((name) => !this.isFixed(name)),
    );
  }

  private sayFixed(names: readonly string[]): void {
    if (names.some((name) => !this.store.mayEdit(name)))
      return this.remarks.say(`${listed(names)} ${names.length === 1 ? 'is' : 'are'} not to be edited here.`);
    const [is, stays] = names.length === 1 ? ['is', 'stays as it is'] : ['are', 'stay as they are'];
    this.remarks.say(`${listed(names)} ${is} borrowed from another table and ${stays} here. The record leads there.`);
  }

  /** Opens the cell gone to. @param typing true if a key is on its way into it, which takes the place of what it held */
  open(typing = false): boolean {
    const index = this.selection.at();
    if (!this.canEdit() || index === undefined || this.isGone()) return false;
    const column = this.selection.columnName();
    const columnId = column === undefined ? undefined : columnIdOf(this.store.table(), column);
    const row = this.selection.row();
    if (!row || column === undefined || columnId === undefined) return false;
    if (this.isFixed(column)) {
      this.sayFixed([column]);
      return false;
    }
    this.selection.single();
    const was = this.selected.rawOf(row, column);
    this.cell.set({ id: row.id, index, columnId, was, text: typing ? '' : was, typed: typing });
    return true;
  }

  /** Writes the open cell and closes it. */
  commit(text: string): void {
    const cell = this.cell();
    this.cell.set(undefined);
    if (!cell) return;
    // Of a column that was removed meanwhile the server says so, and what was typed is kept.
    const name = columnNameOf(this.store.table(), cell.columnId) ?? this.store.table()?.stored?.[cell.columnId]?.name;
    if (name !== undefined) this.write(cell.id, name, cell.was, text, cell.index);
  }

  /** The list was answered anew: the open cell stays the same cell, wherever its row is now. */
  placed(places: ReadonlyMap<number, number | null>): void {
    const cell = this.cell();
    const to = cell && places.get(cell.id);
    if (cell && typeof to === 'number' && to !== cell.index) this.cell.set({ ...cell, index: to });
  }

  /** Says so where the row gone to is not in the list any more, or the column not on show: no key means another in its place. */
  private isGone(): boolean {
    const caret = this.selection.caret();
    if (caret?.isGone) {
      this.remarks.say(this.gone.words(caret.id));
      return true;
    }
    if (this.selection.column() >= 0 || caret === undefined) return false;
    this.remarks.say('The column you were in is not here any more. The arrow keys go on from there.');
    return true;
  }

  /** Leaves the open cell as it was. */
  leave(): void {
    this.cell.set(undefined);
  }

  /** Writes one cell. @param index place of its row in the list, where it stays */
  write(id: number, column: string, was: string, now: string, index?: number): void {
    if (index !== undefined && this.answers.rowAt(index)?.id === id) this.answers.stay(id, index);
    this.change('edited', [column], [{ id, was: [was], now: [now] }]);
  }

  /** Gives what a record is called by: the first of its cells. */
  called(id: number): string {
    const row = this.answers.rowOf(id);
    const text = row?.cells[0]?.trim() ?? '';
    if (text === '') return 'a row';
    return text.length > CALLED ? `${text.slice(0, CALLED)}…` : text;
  }

  /** Puts copied cells in from the cell gone to on; one cell fills the whole block. What goes beyond the last row is added. */
  async paste(text: string): Promise<void> {
    const [span, ids, top] = [this.selection.span(), this.selection.rows(), this.selection.top()];
    if (!this.canEdit() || this.isGone() || !span || ids.length === 0 || top === undefined) return;
    const pasted = cellsOfText(text);
    const one = pasted.length === 1 && pasted[0].length === 1 ? pasted[0][0] : undefined;
    const height = one === undefined ? pasted.length : ids.length;
    const width = one === undefined ? Math.max(...pasted.map((cells) => cells.length)) : span.right - span.left + 1;
    const columns = this.selected.columns().slice(span.left, span.left + width);
    const there = Math.max(0, Math.min(height, (this.answers.answer()?.shown ?? 0) - top));
    if (this.selected.areTooMany(height)) return;
    const rows = one === undefined ? await this.selected.rowsFrom(ids[0], top, there) : await this.selected.rowsOf(ids);
    if (!rows) return;
    const cell = (row: number, column: number): string | undefined => one ?? pasted[row][column];
    const changed = rows.map(({ id, cells }, i) => ({
      id,
      was: columns.map((_, j) => cells[span.left + j]),
      now: columns.map((_, j) => cell(i, j) ?? null),
    }));
    const added = Array.from({ length: height - rows.length }, (_, i) =>
      columns.map((_, j) => cell(rows.length + i, j) ?? ''),
    );
    const lost = width - columns.length;
    if (lost > 0) this.remarks.say(`${plural(lost, 'column')} of what was pasted had no column to go to.`);
    this.change('pasted', columns, changed, added);
    if (one === undefined) {
      this.selection.goTo(top, span.left);
      this.selection.goTo(top + Math.max(1, rows.length) - 1, span.left + columns.length - 1, true);
    }
  }

  /** Fills the block with what is in its first row. */
  async fillDown(): Promise<void> {
    const selected = this.canEdit() && !this.isGone() ? await this.selected.block() : undefined;
    if (!selected) return;
    const [first, ...rest] = selected.rows;
    // What the others are to be filled with has gone.
    if (first?.id !== this.selection.rows()[0]) return;
    const changed = rest.map((row) => ({ ...row, now: first.was }));
    this.change('filled', selected.columns, changed);
  }

  /** Makes the selected cells blank. */
  async blank(): Promise<void> {
    const selected = this.canEdit() && !this.isGone() ? await this.selected.block() : undefined;
    if (!selected) return;
    const changed = selected.rows.map((row) => ({ ...row, now: row.was.map(() => '') }));
    this.change('edited', selected.columns, changed);
  }

  private change(
    kind: EditKind,
    asked: readonly string[],
    rows: readonly { id: number; was: string[]; now: (string | null)[] }[],
    addedRows: string[][] = [],
  ): void {
    const fixed = asked.filter((name) => this.isFixed(name));
    if (fixed.length > 0) this.sayFixed(fixed);
    const own = <T>(cells: readonly T[]): T[] => cells.filter((_, i) => !fixed.includes(asked[i]));
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
    for (const { id } of changed) {
      const index = this.answers.indexOf(id);
      if (index !== undefined) this.answers.stay(id, index);
    }
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
    if (!this.canEdit() || !this.store.may('add')) return;
    const given = new Map<string, string>();
    for (const picker of this.store.pickers()) {
      const value = givenBy(picker);
      if (value !== undefined && !this.isFixed(picker.column)) given.set(picker.column, value);
    }
    const columns =
      given.size > 0
        ? [...given.keys()]
        : this.selected
            .columns()
            .filter((name) => !this.isFixed(name))
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
    if (!this.canEdit() || !this.store.may('remove') || this.isGone()) return;
    const rows = seen !== undefined ? (await this.selected.block())?.rows : undefined;
    if (!rows || rows.length === 0 || seen === undefined) return;
    const removed = rows.map(({ id }) => ({ id, seen }));
    const said = rows.length === 1 ? `Removing ${this.called(rows[0].id)}` : `Removing ${rowsCounted(rows.length)}`;
    this.selection.single();
    const key = this.edits.add({ kind: 'removed', columns: [], removed }, said);
    const undo = { name: 'Undo it', does: () => void this.edits.undoEdit(key) };
    this.remarks.say(
      rows.length === 1 ? 'The row is removed.' : `${rowsCounted(rows.length)} are removed.`,
      this.store.changeable() ? undo : undefined,
    );
  }
}
