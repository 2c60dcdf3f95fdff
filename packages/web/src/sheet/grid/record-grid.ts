import {
  afterNextRender,
  afterRenderEffect,
  ApplicationRef,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  Injector,
  output,
  untracked,
  viewChild,
  ViewEncapsulation,
} from '@angular/core';
import { outputFromObservable } from '@angular/core/rxjs-interop';
import { columnNameOf } from '../../common/column-ids';
import { isWriting } from '../../look/take-focus';
import { Hint } from '../../look/hint';
import { Remarks } from '../../services/remarks';
import { Answers } from '../state/answers';
import { cellAt } from './cell-at';
import { dragged, moves } from './dragged';
import { DrawnRows } from './drawn-rows';
import { giveCopy } from './give-copy';
import { headsOf } from './heads';
import { HeldPlaces } from './holding';
import { FirstMatch } from './first-match';
import { MatchSteps } from './match-steps';
import { PinElements } from './pin-elements';
import { RowElements } from './row-elements';
import type { LaidOutColumn } from '../state/layout';
import { CellEditor, type Written } from '../keep/cell-editor';
import { Keeper } from '../keep/keeper';
import { SelectedCells } from '../keep/selected-cells';
import { SheetStore } from '../state/sheet-store';
import { gridKey } from './grid-keys';
import { Selection } from './selection';
import { TraceStrip } from './trace';
import { GUTTER, Viewport } from './viewport';

/** The records, windowed: only the rows in view are drawn, and only rows near them are fetched. */
@Component({
  selector: 'un-record-grid',
  imports: [Hint, CellEditor, PinElements, RowElements, TraceStrip],
  templateUrl: './record-grid.html',
  styleUrls: ['./record-head.css', './record-grid.css'],
  encapsulation: ViewEncapsulation.None,
  providers: [Viewport, DrawnRows, FirstMatch, HeldPlaces, MatchSteps],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RecordGrid {
  protected readonly store = inject(SheetStore);
  protected readonly answers = inject(Answers);
  /** Where the thread enters the header, for the line drawn down the margin. */
  readonly resized = output<void>();
  /** The menu of a column's header is asked for. */
  readonly opened = output<{ readonly name: string; readonly event: Event }>();
  /** The record gone to is to be opened beside the grid. */
  readonly peeked = output<void>();
  private readonly steps = inject(MatchSteps);
  private readonly firstMatch = inject(FirstMatch);
  /** The match that was gone to, in words. */
  readonly reached = outputFromObservable(this.steps.reached);
  private readonly remarks = inject(Remarks);

  private readonly scroller = viewChild.required<ElementRef<HTMLElement>>('scroller');
  protected readonly viewport = inject(Viewport);
  protected readonly drawn = inject(DrawnRows);
  protected readonly selection = inject(Selection);
  protected readonly keeper = inject(Keeper);
  private readonly selectedCells = inject(SelectedCells);
  private readonly app = inject(ApplicationRef);
  private readonly injector = inject(Injector);
  /** Place of the row gone to last. */
  readonly at = this.selection.at;
  protected readonly activeColumn = this.selection.column;
  protected readonly activeId = computed(() =>
    this.drawn.rows().some(({ at }) => at) && this.activeColumn() >= 0 ? 'active-cell' : null,
  );
  protected readonly whole = computed(() => {
    const { grain, effect: does } = this.store.definition();
    return grain === 'rows' && does === 'mark in place';
  });
  protected readonly layout = this.viewport.layout;
  protected readonly firstWidth = computed(() => this.layout()[0]?.width ?? 0);
  protected readonly heads = computed(() => {
    const tallies = this.answers.answer()?.columnTallies ?? [];
    const byName = new Map(this.answers.answeredColumns().map((name, i) => [name, tallies[i] ?? 0]));
    return headsOf(this.layout(), new Set(this.store.threaded()), this.store.sort(), byName);
  });

  protected readonly bins = computed(() => {
    const answer = this.answers.answer();
    return answer?.asked ? answer.trace : [];
  });
  protected readonly starts = computed(() => this.answers.answer()?.traceStarts ?? []);

  constructor() {
    const destroyed = inject(DestroyRef);
    inject(HeldPlaces).hold(this);
    effect(() => {
      const [goal, at] = [this.keeper.goal(), this.at()];
      if (goal === undefined || at === undefined || this.answers.rowAt(at)?.id !== goal) return;
      untracked(() => {
        this.keeper.goal.set(undefined);
        if (isWriting()) return;
        // It may have been told of before it was known to be one's own: then nobody has gone to its first cell yet.
        this.selection.goTo(at, this.keeper.firstOwn());
        queueMicrotask(() => this.openCell());
      });
    });
    afterNextRender(() => {
      this.viewport.attach(this.scroller().nativeElement);
      const observer = new ResizeObserver(() => this.measure());
      observer.observe(this.scroller().nativeElement);
      destroyed.onDestroy(() => observer.disconnect());
    });
    // Laid out at once, in the time that is left until the next frame is due.
    afterRenderEffect({
      read: () => {
        this.drawn.rows();
        void this.scroller().nativeElement.scrollHeight;
      },
    });
    effect(() => {
      const rows = this.drawn.rows();
      if (rows.length > 0) this.answers.need(rows[0].index, rows[rows.length - 1].index);
    });
    // A new text starts at the top, or where matches are marked in place at the first of them; the same text answered anew keeps
    // its place.
    let text: string | undefined;
    effect(() => {
      const answered = this.answers.answered();
      const { effect: does, flip } = untracked(this.store.definition);
      if (text !== answered && does === 'mark in place' && !flip) untracked(() => this.firstMatch.follow(answered));
      else if (text !== undefined && text !== answered && this.viewport.offset() > 0) this.viewport.toTop();
      if (text !== answered) this.selection.clear();
      text = answered;
    });
  }

  /** An added row is in the list: it is gone to, and comes into view, unless somebody is writing elsewhere meanwhile. */
  wentTo(place: number): void {
    if (isWriting()) {
      this.keeper.goal.set(undefined);
      return;
    }
    this.selection.goTo(place, this.keeper.firstOwn());
    afterNextRender(() => this.moveTo(place), { injector: this.injector });
    this.focus();
  }

  focus(): void {
    this.scroller().nativeElement.focus();
  }

  private measure(): void {
    this.viewport.measure();
    this.resized.emit();
  }

  /** Brings the next (or previous) match into view. */
  goToMatch(backwards: boolean): void {
    this.steps.go(backwards);
  }

  /** Goes to a row, which comes into view. @param further the selected block reaches there */
  moveTo(index: number, further = false, byKey = false): void {
    const caret = this.selection.caret();
    // The next one after a row that has gone is where that was.
    const to = caret?.isGone && index > caret.index ? index - 1 : index;
    const row = Math.min(this.viewport.shown() - 1, Math.max(0, to));
    if (row < 0) return;
    this.goTo(row, this.activeColumn(), further, byKey);
    this.viewport.show(row);
  }

  private moveAside(column: number, further = false, byKey = false): void {
    const to = Math.min(this.layout().length - 1, Math.max(0, column));
    this.goTo(this.at() ?? 0, to, further, byKey);
    this.viewport.showAside(to, this.drawn.notesWidth());
  }

  private goTo(row: number, column: number, further: boolean, byKey: boolean): void {
    if (byKey && !further) this.selection.walkTo(row, column);
    else this.selection.goTo(row, column, further);
  }

  protected focused(): void {
    if (this.viewport.shown() === 0 || (this.at() !== undefined && this.activeColumn() >= 0)) return;
    this.selection.goTo(this.at() ?? Math.ceil(this.viewport.first()), Math.max(0, this.activeColumn()));
  }

  /** A press goes to a cell; drawn on, it selects the block up to where it is let go. */
  protected pressed(event: PointerEvent): void {
    const cell = cellAt(event.target, this.activeColumn());
    if (!cell || event.button !== 0) return;
    if ((event.ctrlKey || event.metaKey) && !event.shiftKey) return this.selection.toggle(cell.row, cell.column);
    this.selection.goTo(cell.row, cell.column, event.shiftKey);
    if (event.pointerType !== 'mouse' || this.viewport.folded()) return;
    moves().subscribe(({ clientX, clientY }) => {
      const over = cellAt(document.elementFromPoint(clientX, clientY), this.activeColumn());
      if (!over || (over.row === this.at() && over.column === this.activeColumn())) return;
      this.selection.goTo(over.row, over.column, true);
      getSelection()?.removeAllRanges();
    });
  }

  protected clicked(event: MouseEvent): void {
    // Cells are selected, not the text between the two.
    if (event.shiftKey) getSelection()?.removeAllRanges();
    // Where the record covers the rows a tap opens it.
    if (cellAt(event.target, 0) && matchMedia('(max-width: 800px)').matches) this.peeked.emit();
    const pin = (event.target as HTMLElement).closest<HTMLElement>('.pin');
    if (!pin) return;
    this.selection.goTo(Number(pin.dataset['index']), Math.max(0, this.activeColumn()));
    this.peeked.emit();
  }

  protected twice(event: MouseEvent): void {
    if (!cellAt(event.target, 0)) return;
    if (this.viewport.folded() || !this.openCell()) this.peeked.emit();
  }

  /** The keys of any grid, and of keeping its rows. */
  protected key(event: KeyboardEvent): void {
    if (event.target !== this.scroller().nativeElement) return;
    const does = gridKey(event, {
      row: this.at() ?? 0,
      column: this.activeColumn(),
      page: this.viewport.fits() - 1,
      moveTo: (row, further) => this.moveTo(row, further, true),
      moveAside: (column, further) => this.moveAside(column, further, true),
      toggle: () => this.selection.toggleHere(),
      peek: () => this.peeked.emit(),
      open: (typing) => this.openCell(typing),
      blank: () => void this.keeper.blank(),
      fillDown: () => void this.keeper.fillDown(),
      copy: () => this.copies(),
      removeRows: () => void this.keeper.removeRows(),
      all: () => (getSelection()?.removeAllRanges(), this.selection.all()),
      single: () =>
        (this.selection.isMany() || this.selection.byRow() !== undefined) && (this.selection.single(), true),
      edits: this.keeper.canEdit(),
    });
    if (does) event.preventDefault();
  }

  /** Opens the cell gone to, in view, with the focus in it already: the key that opened it may be on its way into it. */
  private openCell(typing = false): boolean {
    if (this.viewport.folded() || !this.keeper.open(typing)) return false;
    this.moveAside(this.activeColumn());
    this.app.tick();
    return true;
  }

  /** A stretch of one cell's text that is selected is the browser's to copy. */
  private copies(): boolean {
    if (!this.selection.isMany() && getSelection()?.toString()) return false;
    void this.copy();
    return true;
  }

  private async copy(): Promise<void> {
    const text = await this.selectedCells.copied();
    if (text !== undefined && !giveCopy(text)) this.remarks.say('The browser did not let it be copied.');
  }

  protected pasted(event: ClipboardEvent): void {
    if (event.target !== this.scroller().nativeElement) return;
    const text = event.clipboardData?.getData('text/plain') ?? '';
    if (text === '' || !this.keeper.canEdit()) return;
    event.preventDefault();
    void this.keeper.paste(text);
  }

  /** The open cell, where it is drawn. */
  protected readonly open = computed(() => {
    const cell = this.keeper.cell();
    const table = this.store.table();
    if (!cell || !table) return undefined;
    const name = columnNameOf(table, cell.columnId);
    const place = this.layout().findIndex((one) => one.name === name);
    const column = table.columns.find((one) => one.name === name) ?? table.stored?.[cell.columnId];
    if (!column) return undefined;
    return {
      ...cell,
      column,
      // One whose column is not on show any more stays where it can be seen.
      left: GUTTER + this.viewport.leftOf(Math.max(0, place)),
      top: this.viewport.topOf(cell.index),
      width: Math.max(140, this.layout()[Math.max(0, place)].width),
      label: `${column.name} of row ${cell.index + 1}`,
    };
  });

  protected wrote({ text, onward }: Written): void {
    const hadFocus = this.scroller().nativeElement.contains(document.activeElement);
    if (text === undefined) this.keeper.leave();
    else this.keeper.commit(text);
    if (hadFocus || onward !== 'stay') this.focus();
    const [row, column] = [this.at() ?? 0, this.activeColumn()];
    if (onward === 'down') this.moveTo(row + 1);
    else if (onward === 'up') this.moveTo(row - 1);
    else if (onward === 'right') this.moveAside(column + 1);
    else if (onward === 'left') this.moveAside(column - 1);
  }

  protected readonly rescue = (text: string): void => this.keeper.commit(text);

  protected left(): void {
    this.keeper.leave();
    this.focus();
  }

  /** Drags a column's edge; the width is the box's once it is let go. */
  protected stretch(column: LaidOutColumn, event: PointerEvent): void {
    dragged(event).subscribe({
      next: (by) => this.viewport.stretched.set({ name: column.name, width: Math.max(40, column.width + by) }),
      complete: () => {
        const stretched = this.viewport.stretched();
        this.viewport.stretched.set(undefined);
        if (stretched) this.store.setWidth(stretched.name, stretched.width);
      },
    });
  }
}
