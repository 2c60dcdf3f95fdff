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
  signal,
  untracked,
  viewChild,
  ViewEncapsulation,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { catchError, concatMap, EMPTY, map, type Observable, Subject } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { patiently } from '../../services/latest';
import { Preferences } from '../../services/preferences';
import { Remarks } from '../../services/remarks';
import { Answers } from '../state/answers';
import { dragged, moves } from './dragged';
import type { GridRow } from './grid-row';
import { headsOf } from './heads';
import { RowCells } from './row-cells';
import type { LaidOutColumn } from '../state/layout';
import { CellEditor, type Onward } from '../keep/cell-editor';
import { Edits } from '../keep/edits';
import { Keeper } from '../keep/keeper';
import { SheetStore } from '../state/sheet-store';
import { gridKey } from './grid-keys';
import { noteOf, over } from './row-notes';
import { Selection } from './selection';
import { Trace } from './trace';

/** Heights in pixels of a row, comfortable, compact, and of two lines; and of the header. The same in the styles. */
export const ROW_HEIGHT = 33;
const COMPACT_HEIGHT = 27;
const FOLDED_HEIGHT = 58;
const HEADER_HEIGHT = 54;
/** A narrower grid shows its rows as entries of two lines. */
const FOLDS_BELOW = 560;
/** Rows drawn above and below the ones in view, so that a short scroll shows no gap. */
const MARGIN = 4;
/** The tallest an element may be in every browser; a longer list is scrolled in proportion. */
const TALLEST = 16_000_000;
const GUTTER = 60;

/** The records, windowed: only the rows in view are drawn, and only rows near them are fetched. */
@Component({
  selector: 'un-record-grid',
  imports: [CellEditor, RowCells, Trace],
  templateUrl: './record-grid.html',
  styleUrl: './record-grid.css',
  encapsulation: ViewEncapsulation.None,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RecordGrid {
  protected readonly store = inject(SheetStore);
  protected readonly answers = inject(Answers);
  private readonly preferences = inject(Preferences);
  /** Where the thread enters the header, for the line drawn down the margin. */
  readonly resized = output<void>();
  /** The menu of a column's header is asked for. */
  readonly opened = output<{ readonly name: string; readonly event: Event }>();
  /** The record gone to is to be opened beside the grid. */
  readonly peeked = output<void>();
  /** What was gone to, in words. */
  readonly reached = output<string>();
  private readonly steps = new Subject<boolean>();
  private readonly remarks = inject(Remarks);

  private readonly scroller = viewChild.required<ElementRef<HTMLElement>>('scroller');
  private readonly offset = signal(0);
  private readonly viewHeight = signal(600);
  private readonly viewWidth = signal(1000);
  /** Width of a column while its edge is dragged. */
  private readonly stretched = signal<{ name: string; width: number } | undefined>(undefined);

  protected readonly selection = inject(Selection);
  protected readonly keeper = inject(Keeper);
  private readonly edits = inject(Edits);
  private readonly app = inject(ApplicationRef);
  private readonly injector = inject(Injector);
  /** Place of the row gone to last. */
  readonly at = this.selection.at;
  protected readonly activeColumn = this.selection.column;
  protected readonly activeId = computed(() =>
    this.rows().some(({ at }) => at) && this.activeColumn() >= 0 ? 'active-cell' : null,
  );
  /** True if scrolled sideways: then the first column stays in view. */
  protected readonly aside = signal(false);
  protected readonly folded = computed(() => this.viewWidth() < FOLDS_BELOW);
  protected readonly compact = computed(() => this.preferences.density() === 'compact');
  protected readonly whole = computed(() => {
    const { grain, effect: does } = this.store.definition();
    return grain === 'rows' && does === 'mark in place';
  });
  private readonly rowHeight = computed(() =>
    this.folded() ? FOLDED_HEIGHT : this.compact() ? COMPACT_HEIGHT : ROW_HEIGHT,
  );
  private readonly headerHeight = computed(() => (this.folded() ? 0 : HEADER_HEIGHT));

  protected readonly layout = computed(() => {
    const layout = this.store.layout();
    const stretched = this.stretched();
    if (!stretched) return layout;
    return layout.map((column) => (column.name === stretched.name ? { ...column, width: stretched.width } : column));
  });
  /** The column that says most of a record: what a folded row shows first. */
  protected readonly lead = computed(() => {
    const threaded = new Set(this.store.threaded());
    const layout = this.layout();
    return Math.max(
      0,
      layout.findIndex(({ name, kind }) => kind === 'text' && threaded.has(name)),
    );
  });
  protected readonly firstOnly = computed(() => this.layout().slice(0, 1));
  protected readonly firstWidth = computed(() => this.layout()[0]?.width ?? 0);
  protected readonly heads = computed(() => {
    const tallies = this.answers.answer()?.columnTallies ?? [];
    const byName = new Map(this.answers.answeredColumns().map((name, i) => [name, tallies[i] ?? 0]));
    return headsOf(this.layout(), new Set(this.store.threaded()), this.store.sort(), byName);
  });

  protected readonly shown = computed(() => this.answers.answer()?.shown ?? 0);
  protected readonly width = computed(() =>
    this.folded() ? this.viewWidth() : GUTTER + this.layout().reduce((sum, { width }) => sum + width, 0),
  );
  protected readonly height = computed(() => Math.min(this.shown() * this.rowHeight(), TALLEST));
  protected readonly bins = computed(() => {
    const answer = this.answers.answer();
    return answer?.asked ? answer.trace : [];
  });
  protected readonly starts = computed(() => this.answers.answer()?.traceStarts ?? []);

  /** First row in view, as a fraction of a row. */
  private readonly first = computed(() => {
    const room = this.viewHeight() - this.headerHeight();
    const drawn = this.height();
    const real = this.shown() * this.rowHeight();
    if (real <= drawn || drawn <= room) return this.offset() / this.rowHeight();
    return ((this.offset() / (drawn - room)) * (real - room)) / this.rowHeight();
  });
  /** Whole rows that fit. */
  private readonly fits = computed(() => Math.floor((this.viewHeight() - this.headerHeight()) / this.rowHeight()));

  protected readonly rows = computed<GridRow[]>(() => {
    const height = this.rowHeight();
    const from = Math.max(0, Math.floor(this.first()) - MARGIN);
    // At rest at the top, where typing leads, nothing is drawn out of sight: it would cost each keystroke its share.
    const below = this.offset() > 0 ? MARGIN : 0;
    const to = Math.min(this.shown(), Math.floor(this.first()) + this.fits() + 1 + below);
    const shift = this.offset() - this.first() * height;
    const asked = this.answers.answer()?.asked ?? false;
    const marking = asked && this.store.definition().effect === 'mark in place';
    const [block, many] = [this.selection.block(), this.selection.isMany()];
    const [edits, leaving, fresh] = [this.edits.over(), this.edits.leaving(), this.answers.fresh()];
    const rows: GridRow[] = [];
    for (let index = from; index < to; index++) {
      const fetched = this.answers.rowAt(index);
      const row = fetched && over(fetched, edits.get(fetched.id));
      const note = row && noteOf(row, fresh.get(row.id), leaving.has(row.id));
      const inBlock = many && block !== undefined && index >= block.top && index <= block.bottom;
      rows.push({
        index,
        top: Math.round(index * height + shift),
        place: row ? String(row.place) : '',
        position: row?.position ?? -1,
        match: row !== undefined && row.match && asked,
        at: index === this.at(),
        content: row,
        note: note?.text ?? '',
        noteKind: note?.kind ?? '',
        from: inBlock ? block.left : -1,
        to: inBlock ? block.right : -1,
        said: row
          ? [row.place, marking && row.match ? 'matches' : '', note?.text ?? ''].filter(Boolean).join(', ')
          : '',
      });
    }
    return rows;
  });

  protected readonly view = computed(() => {
    const total = this.answers.answer()?.total ?? 0;
    const rows = this.rows().filter(({ position }) => position >= 0);
    if (rows.length === 0 || total === 0) return { from: 0, to: 0 };
    const inView = rows.filter(({ index }) => index >= Math.floor(this.first()));
    const places = (inView.length > 0 ? inView : rows).map(({ position }) => position);
    return { from: Math.min(...places) / total, to: (Math.max(...places) + 1) / total };
  });

  constructor() {
    const destroyed = inject(DestroyRef);
    let before = new Map<number, number>();
    this.answers.anchors = () => {
      const ids = this.anchors();
      const places = [Math.floor(this.first()), this.at() ?? -1];
      before = new Map(ids.flatMap((id, i) => (i < places.length ? [[id, places[i]] as const] : [])));
      return ids;
    };
    effect(() => {
      const placed = this.answers.placed();
      if (placed) untracked(() => this.reach(placed) || this.hold(placed, before));
    });
    effect(() => {
      const [goal, at] = [this.keeper.goal(), this.at()];
      if (goal === undefined || at === undefined || this.answers.rowAt(at)?.id !== goal) return;
      untracked(() => {
        this.keeper.goal.set(undefined);
        // It may have been told of before it was known to be one's own: then nobody has gone to its first cell yet.
        this.selection.goTo(at, this.keeper.firstOwn());
        queueMicrotask(() => this.openCell());
      });
    });
    this.steps
      .pipe(
        concatMap((backwards) => this.step(backwards)),
        takeUntilDestroyed(),
      )
      .subscribe();
    afterNextRender(() => {
      const observer = new ResizeObserver(() => this.measure());
      observer.observe(this.scroller().nativeElement);
      destroyed.onDestroy(() => observer.disconnect());
    });
    // Laid out at once, in the time that is left until the next frame is due.
    afterRenderEffect({
      read: () => {
        this.rows();
        void this.scroller().nativeElement.scrollHeight;
      },
    });
    effect(() => {
      const rows = this.rows();
      if (rows.length > 0) this.answers.need(rows[0].index, rows[rows.length - 1].index);
    });
    // A new text starts at the top; the same text answered anew keeps its place.
    let text: string | undefined;
    effect(() => {
      const answered = this.answers.answered();
      if (text !== undefined && text !== answered && this.offset() > 0) {
        this.scroller().nativeElement.scrollTop = 0;
        this.offset.set(0);
      }
      if (text !== answered) this.selection.clear();
      text = answered;
    });
  }

  focus(): void {
    this.scroller().nativeElement.focus();
  }

  /** Rows that the view hangs on: the first one in view, and the one gone to. */
  private readonly anchors = (): number[] => {
    const first = this.answers.rowAt(Math.floor(this.first()));
    const at = this.at();
    const gone = at === undefined ? undefined : this.answers.rowAt(at);
    return [first, gone].flatMap((row) => row?.id ?? []).concat(this.keeper.goal() ?? []);
  };

  /** The added row is in the list: it is gone to, and opened. */
  private reach(places: ReadonlyMap<number, number | null>): boolean {
    const goal = this.keeper.goal();
    const place = goal === undefined ? undefined : places.get(goal);
    if (place === undefined || place === null) return false;
    this.selection.goTo(place, this.keeper.firstOwn());
    // Once the list is as long as it is to be.
    afterNextRender(() => this.moveTo(place), { injector: this.injector });
    this.focus();
    return true;
  }

  /** The same question was answered anew: what was in view stays in view, and the cell gone to is the same cell. */
  private hold(places: ReadonlyMap<number, number | null>, before: ReadonlyMap<number, number>): void {
    const moved = (id: number | undefined): number => {
      const [from, to] = [before.get(id ?? -1), places.get(id ?? -1)];
      return from === undefined || to === undefined || to === null ? 0 : to - from;
    };
    const [first, gone = first] = [...before.keys()];
    const by = moved(gone);
    if (by !== 0) {
      this.selection.shift(by);
      this.keeper.shift(by);
    }
    // At the very top one stays at the top, and sees what comes there.
    const down = moved(first) * this.rowHeight();
    if (down === 0 || this.offset() === 0) return;
    // Once the list is as long as it is to be.
    afterNextRender(
      () => {
        const scroller = this.scroller().nativeElement;
        scroller.scrollTop += down;
        this.offset.set(scroller.scrollTop);
      },
      { injector: this.injector },
    );
  }

  private measure(): void {
    const { clientHeight, clientWidth } = this.scroller().nativeElement;
    this.viewHeight.set(clientHeight);
    this.viewWidth.set(clientWidth);
    this.resized.emit();
  }

  protected scrolled(): void {
    const { scrollTop, scrollLeft } = this.scroller().nativeElement;
    this.offset.set(scrollTop);
    this.aside.set(scrollLeft > 0 && !this.folded());
  }

  /** Brings a row to the top of the view. */
  protected go(index: number): void {
    const room = this.viewHeight() - this.headerHeight();
    const [real, drawn] = [this.shown() * this.rowHeight(), this.height()];
    const top = Math.max(0, index) * this.rowHeight();
    this.scroller().nativeElement.scrollTop = real <= drawn ? top : (top / (real - room)) * (drawn - room);
  }

  /** Brings the next (or previous) match after the last one gone to into view; each step goes on from the one before. */
  goToMatch(backwards: boolean): void {
    this.steps.next(backwards);
  }

  private step(backwards: boolean): Observable<void> {
    const from = this.at() ?? (backwards ? this.shown() : Math.ceil(this.first()) - 1);
    return this.answers.nextMatch(from, backwards).pipe(
      patiently(1),
      map(({ index }) => {
        if (index === null) {
          this.reached.emit(backwards ? 'No match before this one.' : 'No further match.');
          return;
        }
        this.at.set(index);
        const first = this.first();
        if (index < first || index >= first + this.fits() - 1) this.go(index - Math.floor(this.fits() / 3));
        this.reached.emit(`Match in row ${this.answers.rowAt(index)?.place ?? index + 1}.`);
      }),
      catchError((error: unknown) => {
        this.remarks.say(`The next match was not found. ${errorWords(error)}`);
        return EMPTY;
      }),
    );
  }

  /** Goes to a row, which comes into view. @param further the selected block reaches there */
  moveTo(index: number, further = false): void {
    const row = Math.min(this.shown() - 1, Math.max(0, index));
    if (row < 0) return;
    this.selection.goTo(row, this.activeColumn(), further);
    if (row < this.first()) this.go(row);
    else if (row >= Math.floor(this.first()) + this.fits()) this.go(row - this.fits() + 1);
  }

  /** A column comes into view beside the first one, which always is. */
  private moveAside(column: number, further = false): void {
    const last = this.layout().length - 1;
    const to = Math.min(last, Math.max(0, column));
    this.selection.goTo(this.at() ?? 0, to, further);
    const scroller = this.scroller().nativeElement;
    const left = this.layout()
      .slice(0, to)
      .reduce((sum, { width }) => sum + width, 0);
    const right = GUTTER + left + this.layout()[to].width;
    if (to === 0) scroller.scrollLeft = 0;
    else if (left - this.firstWidth() < scroller.scrollLeft) scroller.scrollLeft = left - this.firstWidth();
    else if (right > scroller.scrollLeft + this.viewWidth()) scroller.scrollLeft = right - this.viewWidth();
  }

  protected focused(): void {
    if (this.at() === undefined && this.shown() > 0) this.at.set(Math.ceil(this.first()));
    if (this.activeColumn() < 0) this.activeColumn.set(0);
  }

  /** The cell under a pointer. */
  private cellAt(target: EventTarget | null): { readonly row: number; readonly column: number } | undefined {
    const element = target as HTMLElement;
    const row = element.closest('.row');
    const cell = element.closest('.cell');
    if (!row) return undefined;
    const column = cell ? Number(cell.getAttribute('aria-colindex')) - 2 : Math.max(0, this.activeColumn());
    return { row: Number(row.getAttribute('aria-rowindex')) - 2, column };
  }

  /** A press goes to a cell; drawn on, it selects the block up to where it is let go. */
  protected pressed(event: PointerEvent): void {
    const cell = this.cellAt(event.target);
    if (!cell || event.button !== 0) return;
    this.selection.goTo(cell.row, cell.column, event.shiftKey);
    if (event.pointerType !== 'mouse' || this.folded()) return;
    moves().subscribe(({ clientX, clientY }) => {
      const over = this.cellAt(document.elementFromPoint(clientX, clientY));
      if (!over || (over.row === this.at() && over.column === this.activeColumn())) return;
      this.selection.goTo(over.row, over.column, true);
      getSelection()?.removeAllRanges();
    });
  }

  protected clicked(event: MouseEvent): void {
    // Where the record covers the rows a tap opens it.
    if (this.cellAt(event.target) && matchMedia('(max-width: 800px)').matches) this.peeked.emit();
    const pin = (event.target as HTMLElement).closest<HTMLElement>('.pin');
    if (!pin) return;
    this.selection.goTo(Number(pin.dataset['index']), Math.max(0, this.activeColumn()));
    this.peeked.emit();
  }

  protected twice(event: MouseEvent): void {
    if (!this.cellAt(event.target)) return;
    if (this.folded() || !this.openCell()) this.peeked.emit();
  }

  /** The keys of any grid, and of keeping its rows. */
  protected key(event: KeyboardEvent): void {
    if (event.target !== this.scroller().nativeElement) return;
    const does = gridKey(event, {
      row: this.at() ?? 0,
      column: this.activeColumn(),
      page: this.fits() - 1,
      moveTo: (row, further) => this.moveTo(row, further),
      moveAside: (column, further) => this.moveAside(column, further),
      peek: () => this.peeked.emit(),
      open: (typing) => this.openCell(typing),
      blank: () => void this.keeper.blank(),
      fillDown: () => void this.keeper.fillDown(),
      copy: () => this.copies(),
      removeRows: () => void this.keeper.removeRows(),
      single: () => this.selection.isMany() && (this.selection.single(), true),
      edits: this.keeper.canEdit(),
    });
    if (does) event.preventDefault();
  }

  /** Opens the cell gone to, in view, with the focus in it already: the key that opened it may be on its way into it. */
  private openCell(typing = false): boolean {
    if (this.folded() || !this.keeper.open(typing)) return false;
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
    const text = await this.keeper.copied();
    if (text === undefined) return;
    // As an event of copying: the newer way is there only on secure origins, and many a team's server is none.
    const give = (event: ClipboardEvent): void => {
      event.preventDefault();
      event.clipboardData?.setData('text/plain', text);
    };
    document.addEventListener('copy', give, { once: true });
    if (!document.execCommand('copy')) this.remarks.say('The browser did not let it be copied.');
    document.removeEventListener('copy', give);
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
    const place = this.layout().findIndex(({ name }) => name === cell.column);
    const column = table.columns.find(({ name }) => name === cell.column);
    if (place < 0 || !column) return undefined;
    const left = this.layout()
      .slice(0, place)
      .reduce((sum, { width }) => sum + width, GUTTER);
    const shift = this.offset() - this.first() * this.rowHeight();
    const top = Math.round(cell.index * this.rowHeight() + shift);
    return {
      ...cell,
      column,
      left,
      top,
      width: Math.max(140, this.layout()[place].width),
      label: `${column.name} of row ${cell.index + 1}`,
    };
  });

  protected wrote({ text, onward }: { readonly text: string; readonly onward: Onward }): void {
    const hadFocus = this.scroller().nativeElement.contains(document.activeElement);
    this.keeper.commit(text);
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
      next: (by) => this.stretched.set({ name: column.name, width: Math.max(40, column.width + by) }),
      complete: () => {
        const stretched = this.stretched();
        this.stretched.set(undefined);
        if (stretched) this.store.setWidth(stretched.name, stretched.width);
      },
    });
  }
}
