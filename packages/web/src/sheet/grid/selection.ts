import { computed, inject, Injectable, signal } from '@angular/core';
import { TAKEN_BY_ID, WINDOW_LIMIT } from '@usual-needle/contract';
import { EMPTY, expand, map, type Observable, reduce, Subject, switchMap, takeUntil } from 'rxjs';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { type ColumnId, columnIdOf, columnNameOf } from '../../common/column-ids';
import { Answers } from '../state/answers';
import type { FetchedRow } from '../state/fetched-rows';
import { SheetStore } from '../state/sheet-store';

/** A row that was gone to: known by its id; where it is in the list is for drawing, and for going on from there. */
interface CaretRow {
  /** Undefined until the row has been fetched. */
  readonly id: number | undefined;
  readonly index: number;
  /** True once the row is in the list no more: then no key means it, nor the one in its place. */
  readonly isGone?: true;
}

/** Columns of a block, by their places among those on show; both inclusive. */
interface CellSpan {
  readonly left: number;
  readonly right: number;
}

/**
 * The cell gone to, and the block of cells from where the selecting began to there. Rows are known by their ids and columns by
 * theirs: what others add, remove, move or rename meanwhile changes nothing of what is selected.
 */
@Injectable()
export class Selection {
  private readonly answers = inject(Answers);
  private readonly store = inject(SheetStore);

  readonly caret = signal<CaretRow | undefined>(undefined);
  private readonly caretColumn = signal<ColumnId | undefined>(undefined);
  private readonly anchor = signal<{ readonly row: CaretRow; readonly column: ColumnId | undefined } | undefined>(
    undefined,
  );
  /** Rows of the block from the first to the last, where there is more than one; undefined where one is not known yet. */
  private readonly several = signal<readonly (number | undefined)[] | undefined>(undefined);
  private readonly extended = new Subject<{ readonly top: number; readonly bottom: number } | undefined>();

  /** True while rows are selected by keys, one by one. */
  private isWalked = false;

  /** Whether whole rows are selected, all that are on show or some; undefined for a block of cells. */
  readonly byRow = signal<'some' | 'all' | undefined>(undefined);

  /** Place in the list of the row gone to last. */
  readonly at = computed(() => this.caret()?.index);
  /** Place of the column gone to, among those on show; -1 before any, and where it is not on show any more. */
  readonly column = computed(() => this.placeOf(this.caretColumn()));
  /** Rows of the block; of one row only where nothing further is selected. */
  readonly rows = computed<readonly (number | undefined)[]>(
    () => this.several() ?? (this.caret() && !this.caret()!.isGone ? [this.caret()!.id] : []),
  );
  /** The ids of those rows, for looking up. */
  readonly ids = computed(() => new Set(this.rows().flatMap((id) => id ?? [])));
  readonly span = computed<CellSpan | undefined>(
    () => {
      if (this.byRow()) return { left: 0, right: this.store.layout().length - 1 };
      const to = this.column();
      const anchor = this.anchor();
      const from = anchor ? this.placeOf(anchor.column) : to;
      return to < 0 || from < 0 ? undefined : { left: Math.min(from, to), right: Math.max(from, to) };
    },
    { equal: (a, b) => a?.left === b?.left && a?.right === b?.right },
  );
  readonly isMany = computed(() => {
    const span = this.span();
    return span !== undefined && this.rows().length > 0 && (this.rows().length > 1 || span.left < span.right);
  });

  constructor() {
    // Rows of a block that were not fetched yet are asked for, so that all of them are known by their ids.
    this.extended
      .pipe(
        switchMap((block) => (block ? this.idsIn(block.top, block.bottom) : EMPTY)),
        takeUntilDestroyed(),
      )
      .subscribe(({ top, ids }) =>
        this.several.update((several) =>
          several?.map((id, i) => id ?? (ids[i] as number | undefined) ?? this.idAt(top + i)),
        ),
      );
  }

  private placeOf(column: ColumnId | undefined): number {
    const name = columnNameOf(this.store.table(), column);
    return name === undefined ? -1 : this.store.layout().findIndex((one) => one.name === name);
  }

  private idAt(index: number): number | undefined {
    return this.answers.rowAt(index)?.id;
  }

  private idsIn(top: number, bottom: number): Observable<{ top: number; ids: number[] }> {
    const next = (at: number): Observable<{ at: number; ids: number[] }> =>
      this.answers
        .fetchRows(at, Math.min(WINDOW_LIMIT, bottom - at + 1), [])
        .pipe(
          map(({ rows }) => ({ at: rows.length === 0 ? bottom + 1 : at + rows.length, ids: rows.map(({ id }) => id) })),
        );
    return next(top).pipe(
      expand(({ at }) => (at > bottom ? EMPTY : next(at))),
      reduce((all, { ids }) => ({ top, ids: [...all.ids, ...ids] }), { top, ids: [] as number[] }),
      takeUntil(this.answers.renewed),
    );
  }

  /** Place in the list of the first row of the block. */
  top(): number | undefined {
    const [caret, anchor] = [this.caret(), this.anchor()];
    return caret && Math.min(caret.index, anchor?.row.index ?? caret.index);
  }

  /** The row gone to, if it is in the list and has been fetched. */
  row(): FetchedRow | undefined {
    const caret = this.known();
    if (!caret || caret.isGone || caret.id === undefined) return undefined;
    const row = this.answers.rowAt(caret.index);
    return row?.id === caret.id ? row : this.answers.rowOf(caret.id);
  }

  /** The name of the column gone to; undefined where there is none, or it was removed or hidden. */
  columnName(): string | undefined {
    return this.store.layout().at(this.column() < 0 ? Infinity : this.column())?.name;
  }

  /** The row gone to, with its id as soon as it has been fetched. */
  private known(): CaretRow | undefined {
    const caret = this.caret();
    if (!caret || caret.id !== undefined || caret.isGone) return caret;
    const id = this.idAt(caret.index);
    if (id === undefined) return caret;
    const known = { ...caret, id };
    this.caret.set(known);
    return known;
  }

  /**
   * Goes to a cell. @param column its place among those on show; the one gone to before, if not said
   * @param further the block reaches there from where it began
   */
  goTo(row: number, column = this.column(), further = false): void {
    const before = this.known();
    const name = this.store.layout().at(Math.max(0, column))?.name;
    const to = name === undefined ? undefined : columnIdOf(this.store.table(), name);
    if (!further) this.single();
    else if (!this.anchor())
      this.anchor.set({
        row: before && !before.isGone ? before : { id: this.idAt(row), index: row },
        column: this.caretColumn() ?? to,
      });
    this.caret.set({ id: this.idAt(row), index: row });
    if (column >= 0) this.caretColumn.set(to);
    if (further) this.extend();
  }

  private extend(): void {
    const [caret, anchor] = [this.caret()!, this.anchor()!.row];
    const [top, bottom] = [Math.min(caret.index, anchor.index), Math.max(caret.index, anchor.index)];
    if (top === bottom) {
      this.several.set(undefined);
      return this.extended.next(undefined);
    }
    const rows = Array.from({ length: bottom - top + 1 }, (_, i) => this.idAt(top + i));
    this.several.set(rows);
    this.fetchLacking(rows, top, bottom);
  }

  private fetchLacking(rows: readonly (number | undefined)[], top: number, bottom: number): void {
    const isLacking = rows.length <= TAKEN_BY_ID && rows.includes(undefined);
    this.extended.next(isLacking ? { top, bottom } : undefined);
  }

  /** Adds the row at a place to those selected, or takes it out of them again: whole rows from then on. */
  toggle(index: number, column: number): void {
    const id = this.idAt(index);
    if (id === undefined) return;
    const before = this.isMany() || this.caret() ? this.rows().flatMap((one) => one ?? []) : [];
    this.toggled(before, id, index, column);
  }

  /** Toggles the row gone to. From then on one goes on by `walkTo`, so that rows apart from each other are reached. */
  toggleHere(): void {
    const row = this.row();
    if (!row) return;
    const isRows = this.byRow() !== undefined || this.rows().length > 1;
    const before = isRows ? this.rows().flatMap((one) => one ?? []) : [];
    this.toggled(before, row.id, this.caret()!.index, this.column());
    this.isWalked = this.byRow() !== undefined;
  }

  private toggled(before: readonly number[], id: number, index: number, column: number): void {
    const top = Math.min(index, this.top() ?? index);
    const now = before.includes(id) ? before.filter((one) => one !== id) : [...before, id];
    this.goTo(index, column);
    if (now.length === 0) return;
    this.anchor.set({ row: { id: this.idAt(top), index: top }, column: undefined });
    this.several.set(now);
    this.byRow.set('some');
  }

  /** Goes to a cell by a key; rows that were selected by keys stay so. */
  walkTo(row: number, column: number): void {
    if (!this.isWalked) return this.goTo(row, column);
    const name = this.store.layout().at(Math.max(0, column))?.name;
    this.caret.set({ id: this.idAt(row), index: row });
    if (name !== undefined) this.caretColumn.set(columnIdOf(this.store.table(), name));
  }

  /** Selects all rows on show; the view stays where it is. */
  all(): void {
    const shown = this.answers.answer()?.shown ?? 0;
    if (shown === 0) return;
    this.single();
    if (!this.caret()) this.goTo(0, 0);
    this.anchor.set({ row: { id: this.idAt(0), index: 0 }, column: undefined });
    const rows = Array.from({ length: shown }, (_, i) => this.idAt(i));
    this.several.set(rows);
    this.byRow.set('all');
    this.fetchLacking(rows, 0, shown - 1);
  }

  /** Rows whose places are to be asked for when the list is answered anew. */
  anchors(): number[] {
    return [this.known(), this.anchor()?.row].flatMap((row) => row?.id ?? []);
  }

  /**
   * The list was answered anew: the same rows are elsewhere in it, or not in it any more.
   * @param places of the anchors; null for a row that is not in the list
   * @returns true if the row gone to has gone
   */
  placed(places: ReadonlyMap<number, number | null>): boolean {
    const caret = this.caret();
    const moved = (row: CaretRow): CaretRow => {
      const to = row.id === undefined ? undefined : places.get(row.id);
      if (to === undefined) return row;
      return to === null ? { ...row, isGone: true } : { id: row.id, index: to };
    };
    // What is not known by now is not known any more: other rows may be in those places.
    const several = this.several();
    if (this.byRow() === 'all') this.all();
    else if (several?.includes(undefined)) this.several.set(several.filter((id) => id !== undefined));
    this.anchor.update((anchor) => anchor && { ...anchor, row: moved(anchor.row) });
    if (!caret) return false;
    const now = moved(caret);
    if (now.isGone !== caret.isGone || now.index !== caret.index) this.caret.set(now);
    return now.isGone === true && !caret.isGone;
  }

  /** Rows were removed: they are in no block any more. */
  removed(ids: readonly number[]): void {
    const gone = new Set(ids);
    if (this.several()?.some((id) => id !== undefined && gone.has(id)))
      this.several.update((several) => several?.filter((id) => id === undefined || !gone.has(id)));
  }

  single(): void {
    this.isWalked = false;
    this.anchor.set(undefined);
    this.several.set(undefined);
    this.byRow.set(undefined);
    this.extended.next(undefined);
  }

  clear(): void {
    this.single();
    this.caret.set(undefined);
  }
}
