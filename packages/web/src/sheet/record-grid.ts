import {
  afterNextRender, afterRenderEffect, ChangeDetectionStrategy, Component, computed, DestroyRef, effect, type ElementRef, inject, output, signal,
  viewChild, ViewEncapsulation,
} from '@angular/core'; // prettier-ignore
import type { AnswerRow } from '@usual-needle/contract';
import { rowsCounted } from '../services/numbers';
import { Preferences } from '../services/preferences';
import { Answers } from './answers';
import { RowCells } from './row-cells';
import { type LaidOutColumn, SheetStore } from './sheet-store';
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

/** A column's header. */
interface Head extends LaidOutColumn {
  readonly threaded: boolean;
  /** Rows of the answer that hit here; empty for none. */
  readonly hits: string;
  /** Arrow after the name, with its level if there are several. */
  readonly sorted: string;
  readonly ariaSort: 'ascending' | 'descending' | null;
}

interface GridRow {
  readonly index: number;
  readonly top: number;
  readonly place: string;
  /** Where the trace has it; -1 if it has not been fetched. */
  readonly position: number;
  readonly match: boolean;
  /** The row gone to last. */
  readonly at: boolean;
  readonly content: AnswerRow | undefined;
}

/** The records, windowed: only the rows in view are drawn, and only rows near them are fetched. */
@Component({
  selector: 'un-record-grid',
  imports: [RowCells, Trace],
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

  private readonly scroller = viewChild.required<ElementRef<HTMLElement>>('scroller');
  private readonly offset = signal(0);
  private readonly viewHeight = signal(600);
  private readonly viewWidth = signal(1000);
  /** Width of a column while its edge is dragged. */
  private readonly stretched = signal<{ name: string; width: number } | undefined>(undefined);

  /** Place of the row gone to last. */
  readonly at = signal<number | undefined>(undefined);
  protected readonly activeColumn = signal(-1);
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
    return Math.max(0, layout.findIndex(({ name, kind }) => kind === 'text' && threaded.has(name))); // prettier-ignore
  });
  protected readonly firstOnly = computed(() => this.layout().slice(0, 1));
  protected readonly firstWidth = computed(() => this.layout()[0]?.width ?? 0);
  protected readonly heads = computed<readonly Head[]>(() => {
    const threaded = new Set(this.store.threaded());
    const sort = this.store.sort();
    const tallies = this.answers.answer()?.columnTallies;
    return this.layout().map((column, i) => {
      const level = sort.findIndex((one) => one.column === column.name);
      const up = sort[level]?.direction === 'up';
      return {
        ...column,
        threaded: threaded.has(column.name),
        hits: threaded.has(column.name) && tallies?.[i] ? rowsCounted(tallies[i]) : '',
        sorted: level < 0 ? '' : ` ${up ? '↑' : '↓'}${sort.length > 1 ? level + 1 : ''}`,
        ariaSort: level < 0 ? null : up ? 'ascending' : 'descending',
      };
    });
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
    const rows: GridRow[] = [];
    for (let index = from; index < to; index++) {
      const row = this.answers.rowAt(index);
      rows.push({
        index,
        top: Math.round(index * height + shift),
        place: row ? String(row.place) : '',
        position: row?.position ?? -1,
        match: row !== undefined && row.match && asked,
        at: index === this.at(),
        content: row,
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
      if (text !== answered) this.at.set(undefined);
      text = answered;
    });
  }

  focus(): void {
    this.scroller().nativeElement.focus();
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

  /** Brings the next (or previous) match after the last one gone to into view. */
  goToMatch(backwards: boolean): void {
    const from = this.at() ?? (backwards ? this.shown() : Math.ceil(this.first()) - 1);
    this.answers.nextMatch(from, backwards).subscribe(({ index }) => {
      if (index === null) return;
      this.at.set(index);
      const first = this.first();
      if (index < first || index >= first + this.fits() - 1) this.go(index - Math.floor(this.fits() / 3));
    });
  }

  /** Goes to a row, which comes into view. */
  moveTo(index: number): void {
    const row = Math.min(this.shown() - 1, Math.max(0, index));
    if (row < 0) return;
    this.at.set(row);
    if (row < this.first()) this.go(row);
    else if (row >= Math.floor(this.first()) + this.fits()) this.go(row - this.fits() + 1);
  }

  /** A column comes into view beside the first one, which always is. */
  private moveAside(column: number): void {
    const last = this.layout().length - 1;
    const to = Math.min(last, Math.max(0, column));
    this.activeColumn.set(to);
    const scroller = this.scroller().nativeElement;
    const left = this.layout().slice(0, to).reduce((sum, { width }) => sum + width, 0); // prettier-ignore
    const right = GUTTER + left + this.layout()[to].width;
    if (to === 0) scroller.scrollLeft = 0;
    else if (left - this.firstWidth() < scroller.scrollLeft) scroller.scrollLeft = left - this.firstWidth();
    else if (right > scroller.scrollLeft + this.viewWidth()) scroller.scrollLeft = right - this.viewWidth();
  }

  protected focused(): void {
    if (this.at() === undefined && this.shown() > 0) this.at.set(Math.ceil(this.first()));
    if (this.activeColumn() < 0) this.activeColumn.set(0);
  }

  protected clicked(event: MouseEvent): void {
    const row = (event.target as HTMLElement).closest('.row');
    const cell = (event.target as HTMLElement).closest('.cell');
    if (!row) return;
    this.at.set(Number(row.getAttribute('aria-rowindex')) - 2);
    if (cell) this.activeColumn.set(Number(cell.getAttribute('aria-colindex')) - 2);
  }

  /** The keys of any grid. */
  protected key(event: KeyboardEvent): void {
    if (event.target !== this.scroller().nativeElement || event.altKey || event.metaKey) return;
    const row = this.at() ?? 0;
    const column = this.activeColumn();
    const whole = event.ctrlKey;
    const moves: Readonly<Record<string, () => void>> = {
      ArrowDown: () => this.moveTo(whole ? Infinity : row + 1),
      ArrowUp: () => this.moveTo(whole ? 0 : row - 1),
      ArrowRight: () => this.moveAside(whole ? Infinity : column + 1),
      ArrowLeft: () => this.moveAside(whole ? 0 : column - 1),
      PageDown: () => this.moveTo(row + this.fits() - 1),
      PageUp: () => this.moveTo(row - this.fits() + 1),
      Home: () => (whole ? this.moveTo(0) : this.moveAside(0)),
      End: () => (whole ? this.moveTo(Infinity) : this.moveAside(Infinity)),
      ' ': () => this.peeked.emit(),
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    move();
  }

  /** Drags a column's edge; the width is the box's once it is let go. */
  protected stretch(column: LaidOutColumn, event: PointerEvent): void {
    event.preventDefault();
    const edge = event.target as HTMLElement;
    edge.setPointerCapture(event.pointerId);
    const width = (at: PointerEvent): number => Math.max(40, column.width + at.clientX - event.clientX);
    const move = (at: PointerEvent): void => this.stretched.set({ name: column.name, width: width(at) });
    edge.addEventListener('pointermove', move);
    edge.addEventListener(
      'lostpointercapture',
      () => {
        edge.removeEventListener('pointermove', move);
        const stretched = this.stretched();
        this.stretched.set(undefined);
        if (stretched) this.store.setWidth(stretched.name, stretched.width);
      },
      { once: true },
    );
  }
}
