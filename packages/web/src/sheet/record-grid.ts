import {
  afterNextRender, ChangeDetectionStrategy, Component, computed, DestroyRef, effect, type ElementRef, inject, output, signal,
  viewChild,
} from '@angular/core'; // prettier-ignore
import type { AnswerRow } from '@usual-needle/contract';
import { cellParts, type CellPart } from './cell-parts';
import { type GridColumn, SheetStore } from './sheet-store';
import { Trace } from './trace';

/** Height of a row in pixels; the same in the styles. */
export const ROW_HEIGHT = 33;
/** Height of the header. */
const HEADER_HEIGHT = 54;
/** Rows drawn above and below the ones in view, so that a short scroll shows no gap. */
const MARGIN = 4;
/** The tallest an element may be in every browser; a longer list is scrolled in proportion. */
const TALLEST = 16_000_000;

interface GridCell {
  /** The whole text, where it is likely to be cut off. */
  readonly title: string | null;
  readonly parts: readonly CellPart[];
  readonly code: boolean;
}

interface GridRow {
  readonly index: number;
  readonly top: number;
  readonly place: string;
  /** Where the trace has it; -1 if it has not been fetched. */
  readonly position: number;
  readonly match: boolean;
  /** The match gone to last. */
  readonly at: boolean;
  readonly cells: readonly GridCell[];
}

/** The records, windowed: only the rows in view are drawn, and only rows near them are fetched. */
@Component({
  selector: 'un-record-grid',
  imports: [Trace],
  template: `
    <div
      #scroller
      class="scroller"
      role="grid"
      tabindex="0"
      aria-label="Records"
      [attr.aria-rowcount]="shown() + 1"
      [attr.aria-colcount]="columns().length + 1"
      [attr.data-answers]="store.answered()"
      [class.behind]="store.slow()"
      [class.whole]="store.box().grain === 'rows' && store.box().effect === 'mark in place'"
      (scroll)="scrolled()"
    >
      <div class="header" role="row" aria-rowindex="1" [style.width.px]="width()">
        <div class="gutter" role="columnheader" aria-label="Row"><span class="line on"></span></div>
        @for (column of columns(); track column.name) {
          <div class="head" role="columnheader" [attr.aria-sort]="column.ariaSort" [style.width.px]="column.width">
            <button
              type="button"
              class="name"
              [title]="'Sort by ' + column.name"
              (click)="store.sortBy(column.name, $event.shiftKey)"
            >
              {{ column.name }}{{ column.sorted }}
            </button>
            @if (column.threaded && column.hits > 0) {
              <span class="hits">{{ column.hits.toLocaleString() }} {{ column.hits === 1 ? 'row' : 'rows' }}</span>
            }
            <span class="line" [class.on]="column.threaded"></span>
            <button
              type="button"
              class="eyelet"
              [class.on]="column.threaded"
              [attr.aria-pressed]="column.threaded"
              [attr.aria-label]="(column.threaded ? 'Unthread ' : 'Thread ') + column.name"
              [title]="column.threaded ? 'Searched. Click to unthread' : 'Not searched. Click to thread'"
              (click)="store.toggleThread(column.name)"
            ></button>
          </div>
        }
      </div>
      <div class="rows" role="rowgroup" [style.height.px]="height()" [style.width.px]="width()">
        <div class="pins" aria-hidden="true">
          @for (row of rows(); track $index) {
            <div class="pin code" [class.match]="row.match" [style.top.px]="row.top">{{ row.place }}</div>
          }
        </div>
        @for (row of rows(); track $index) {
          <div
            class="row"
            role="row"
            [class.match]="row.match"
            [class.at]="row.at"
            [attr.aria-rowindex]="row.index + 2"
            [style.top.px]="row.top"
          >
            <span class="unseen" role="rowheader">{{ row.place }}</span>
            @for (cell of row.cells; track $index) {
              <div
                class="cell"
                role="gridcell"
                [class.code]="cell.code"
                [style.width.px]="columns()[$index]?.width"
                [attr.title]="cell.title"
              >
                @for (part of cell.parts; track $index) {
                  <span [class]="part.mark">{{ part.text }}</span>
                }
              </div>
            }
          </div>
        }
      </div>
    </div>
    <un-trace [bins]="bins()" [from]="view().from" [to]="view().to" (went)="go($event)" />
  `,
  styles: `
    :host {
      display: flex;
      min-height: 0;
      overflow: hidden;
      background: linear-gradient(var(--header) 54px, var(--leaf) 0);
      border: 1px solid var(--hairline);
      border-radius: 10px;
    }
    .scroller {
      flex: 1;
      min-width: 0;
      overflow: auto;
      overflow-anchor: none;
      contain: strict;
      height: 100%;
    }
    .scroller:focus-visible {
      outline-offset: -2px;
    }
    .scroller::-webkit-scrollbar {
      width: 0;
      height: 10px;
    }
    .scroller::-webkit-scrollbar-thumb {
      background: var(--hairline);
      border-radius: 5px;
    }
    un-trace {
      margin-top: 53px;
      border-top: 1px solid var(--hairline);
    }
    .header {
      position: sticky;
      top: 0;
      z-index: 2;
      display: flex;
      height: 54px;
      min-width: 100%;
      background: var(--header);
      border-bottom: 1px solid var(--hairline);
    }
    .head {
      position: relative;
      flex: none;
      padding: 5px 8px 0 8px;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .name {
      height: 24px;
      padding: 0;
      border: 0;
      background: none;
      font-weight: 650;
      font-size: 13px;
    }
    .hits {
      margin-left: 8px;
      color: var(--thread);
      font-size: 12px;
      font-variant-numeric: tabular-nums;
    }
    .line {
      position: absolute;
      left: 14px;
      right: 0;
      bottom: 9px;
      height: 2px;
      background: radial-gradient(circle, var(--soft-ink) 0.8px, transparent 1px) 0 0 / 5px 2px;
    }
    .line.on {
      background: var(--thread);
      right: 4px;
    }
    .gutter .line {
      left: 22px;
      right: 12px;
    }
    .eyelet {
      position: absolute;
      left: 0;
      bottom: -2px;
      width: 24px;
      height: 24px;
      padding: 0;
      border: 0;
      background: none;
      border-radius: 50%;
    }
    .eyelet::before {
      content: '';
      position: absolute;
      left: 6px;
      top: 6px;
      width: 12px;
      height: 12px;
      border: 2px solid var(--eyelet);
      border-radius: 50%;
      background: var(--header);
    }
    .eyelet.on::before {
      border-color: var(--thread);
      background: radial-gradient(circle, var(--thread) 2px, var(--header) 2.6px);
    }
    .eyelet:hover::before {
      border-color: var(--thread);
    }
    .gutter {
      position: sticky;
      left: 0;
      z-index: 1;
      flex: none;
      width: 60px;
      padding-right: 14px;
      text-align: right;
      font-size: 12px;
      color: var(--soft-ink);
      background: inherit;
    }
    .rows {
      position: relative;
      min-width: 100%;
    }
    .behind .row,
    .behind .pin {
      opacity: 0.45;
    }
    /* One sticky element for all row numbers: one each would be a layer each. */
    .pins {
      position: sticky;
      left: 0;
      z-index: 1;
      width: 60px;
      height: 100%;
      background: var(--leaf);
      contain: strict;
    }
    .pin {
      position: absolute;
      width: 60px;
      height: 33px;
      line-height: 32px;
      padding-right: 14px;
      text-align: right;
      font-size: 12px;
      color: var(--soft-ink);
      border-bottom: 1px solid var(--faint);
    }
    .pin.match {
      background: repeating-linear-gradient(var(--thread) 0 5px, transparent 5px 8px) 0 4px / 3px 24px no-repeat;
    }
    .row {
      position: absolute;
      left: 0;
      right: 0;
      display: flex;
      height: 33px;
      padding-left: 60px;
      line-height: 32px;
      border-bottom: 1px solid var(--faint);
      font-variant-numeric: tabular-nums;
      contain: strict;
    }
    /* The sides are borders, not padding, so that a cut-off mark ends with its text. */
    .whole .row.match {
      background: color-mix(in srgb, var(--tint-1) 45%, var(--leaf));
    }
    .row.at {
      box-shadow: inset 0 0 0 2px var(--thread);
    }
    .cell {
      flex: none;
      border-inline: 8px solid transparent;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RecordGrid {
  protected readonly store = inject(SheetStore);
  /** Where the thread enters the header, for the line drawn down the margin. */
  readonly resized = output<void>();

  private readonly scroller = viewChild.required<ElementRef<HTMLElement>>('scroller');
  private readonly offset = signal(0);
  /** Place of the match gone to last. */
  private readonly at = signal<number | undefined>(undefined);
  private readonly viewHeight = signal(600);
  private readonly drawn = new WeakMap<AnswerRow, { columns: readonly GridColumn[]; cells: GridCell[] }>();

  protected readonly columns = this.store.columns;
  protected readonly shown = computed(() => this.store.answer()?.shown ?? 0);
  protected readonly width = computed(() => 60 + this.columns().reduce((sum, { width }) => sum + width, 0));
  protected readonly height = computed(() => Math.min(this.shown() * ROW_HEIGHT, TALLEST));
  protected readonly bins = computed(() => (this.store.answer()?.asked ? this.store.answer()!.trace : []));

  /** First row in view, as a fraction of a row. */
  private readonly first = computed(() => {
    const room = this.viewHeight() - HEADER_HEIGHT;
    const drawn = this.height();
    const real = this.shown() * ROW_HEIGHT;
    if (real <= drawn || drawn <= room) return this.offset() / ROW_HEIGHT;
    return ((this.offset() / (drawn - room)) * (real - room)) / ROW_HEIGHT;
  });

  protected readonly rows = computed<GridRow[]>(() => {
    const count = Math.ceil((this.viewHeight() - HEADER_HEIGHT) / ROW_HEIGHT);
    const from = Math.max(0, Math.floor(this.first()) - MARGIN);
    const to = Math.min(this.shown(), Math.floor(this.first()) + count + MARGIN);
    const shift = this.offset() - this.first() * ROW_HEIGHT;
    const rows: GridRow[] = [];
    for (let index = from; index < to; index++) {
      const row = this.store.rowAt(index);
      rows.push({
        index,
        top: Math.round(index * ROW_HEIGHT + shift),
        place: row ? String(row.place) : '',
        position: row?.position ?? -1,
        match: row !== undefined && row.match && this.store.answer()!.asked,
        at: index === this.at(),
        cells: row ? this.cellsOf(row) : [],
      });
    }
    return rows;
  });

  protected readonly view = computed(() => {
    const total = this.store.answer()?.total ?? 0;
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
    effect(() => {
      const rows = this.rows();
      if (rows.length > 0) this.store.need(rows[0].index, rows[rows.length - 1].index);
    });
    // A new text starts at the top; the same text answered anew keeps its place.
    let text: string | undefined;
    effect(() => {
      const answered = this.store.answered();
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
    this.viewHeight.set(this.scroller().nativeElement.clientHeight);
    this.resized.emit();
  }

  protected scrolled(): void {
    this.offset.set(this.scroller().nativeElement.scrollTop);
  }

  /** Brings a row to the top of the view. */
  protected go(index: number): void {
    const room = this.viewHeight() - HEADER_HEIGHT;
    const [real, drawn] = [this.shown() * ROW_HEIGHT, this.height()];
    const top = index * ROW_HEIGHT;
    this.scroller().nativeElement.scrollTop = real <= drawn ? top : (top / (real - room)) * (drawn - room);
  }

  /** Brings the next (or previous) match after the last one gone to into view. */
  goToMatch(backwards: boolean): void {
    const from = this.at() ?? (backwards ? this.shown() : Math.ceil(this.first()) - 1);
    this.store.nextMatch(from, backwards).subscribe(({ index }) => {
      if (index === null) return;
      this.at.set(index);
      const count = Math.floor((this.viewHeight() - HEADER_HEIGHT) / ROW_HEIGHT);
      if (index < this.first() || index >= this.first() + count - 1)
        this.go(Math.max(0, index - Math.floor(count / 3)));
    });
  }

  private cellsOf(row: AnswerRow): GridCell[] {
    const columns = this.columns();
    const drawn = this.drawn.get(row);
    if (drawn && drawn.columns.length === columns.length) return drawn.cells;
    const cells = columns.map(({ name, width }, i) => {
      const text = row.cells[i] ?? '';
      const parts = cellParts(
        text,
        row.marks.filter(([column]) => column === i),
      );
      return { title: text.length * 6 > width ? text : null, parts, code: /\bno\.?$|^code$|serial/i.test(name) };
    });
    this.drawn.set(row, { columns, cells });
    return cells;
  }
}
