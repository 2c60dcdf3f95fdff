import { computed, Injectable, inject, signal } from '@angular/core';
import { Preferences } from '../../services/preferences';
import { Answers } from '../state/answers';
import { SheetStore } from '../state/sheet-store';

/** Heights in pixels of a row, comfortable, compact, and of two lines; and of the header. The same in the styles. */
const ROW_HEIGHT = 33;
const COMPACT_HEIGHT = 27;
const FOLDED_HEIGHT = 58;
const HEADER_HEIGHT = 54;
/** A narrower grid shows its rows as entries of two lines. */
const FOLDS_BELOW = 560;
/** The tallest an element may be in every browser; a longer list is scrolled in proportion. */
const TALLEST = 16_000_000;
/** Width in pixels of what stands before the first column. */
export const GUTTER = 60;

/** How much of the list is in view, and how it is scrolled. */
@Injectable()
export class Viewport {
  private readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);
  private readonly preferences = inject(Preferences);
  private element: HTMLElement | undefined;
  /** How far down it is scrolled, in pixels. */
  readonly offset = signal(0);
  private readonly viewHeight = signal(600);
  private readonly viewWidth = signal(1000);
  /** True if scrolled sideways: then the first column stays in view. */
  readonly aside = signal(false);
  readonly folded = computed(() => this.viewWidth() < FOLDS_BELOW);
  readonly compact = computed(() => this.preferences.density() === 'compact');
  readonly rowHeight = computed(() => (this.folded() ? FOLDED_HEIGHT : this.compact() ? COMPACT_HEIGHT : ROW_HEIGHT));
  private readonly headerHeight = computed(() => (this.folded() ? 0 : HEADER_HEIGHT));
  private readonly room = computed(() => this.viewHeight() - this.headerHeight());

  /** Rows of the list. */
  readonly shown = computed(() => this.answers.answer()?.shown ?? 0);
  /** Height of all rows, as they are laid out and as they would be. */
  readonly height = computed(() => Math.min(this.realHeight(), TALLEST));
  private readonly realHeight = computed(() => this.shown() * this.rowHeight());
  /** Width of a column while its edge is dragged. */
  readonly stretched = signal<{ readonly name: string; readonly width: number } | undefined>(undefined);
  readonly layout = computed(() => {
    const layout = this.store.layout();
    const stretched = this.stretched();
    if (!stretched) return layout;
    return layout.map((column) => (column.name === stretched.name ? { ...column, width: stretched.width } : column));
  });
  readonly width = computed(() => (this.folded() ? this.viewWidth() : GUTTER + this.leftOf(this.layout().length)));

  /** First row in view, as a fraction of a row. */
  readonly first = computed(() => {
    const [real, drawn] = [this.realHeight(), this.height()];
    if (real <= drawn || drawn <= this.room()) return this.offset() / this.rowHeight();
    return ((this.offset() / (drawn - this.room())) * (real - this.room())) / this.rowHeight();
  });
  /** Whole rows that fit. */
  readonly fits = computed(() => Math.floor(this.room() / this.rowHeight()));

  /** @param element what is scrolled */
  attach(element: HTMLElement): void {
    this.element = element;
  }

  measure(): void {
    if (!this.element) return;
    this.viewHeight.set(this.element.clientHeight);
    this.viewWidth.set(this.element.clientWidth);
  }

  scrolled(): void {
    if (!this.element) return;
    this.offset.set(this.element.scrollTop);
    this.aside.set(this.element.scrollLeft > 0 && !this.folded());
  }

  toTop(): void {
    if (this.element) this.element.scrollTop = 0;
    this.offset.set(0);
  }

  /** Scrolls so many rows further down. */
  down(rows: number): void {
    if (!this.element) return;
    this.element.scrollTop += rows * this.rowHeight();
    this.offset.set(this.element.scrollTop);
  }

  /** Finds where a row is laid out, in pixels. */
  topOf(index: number): number {
    return Math.round(index * this.rowHeight() + this.offset() - this.first() * this.rowHeight());
  }

  /** Brings a row to the top of the view. */
  go(index: number): void {
    if (!this.element) return;
    const [real, drawn] = [this.realHeight(), this.height()];
    const top = Math.max(0, index) * this.rowHeight();
    this.element.scrollTop = real <= drawn ? top : (top / (real - this.room())) * (drawn - this.room());
  }

  /** Brings a row into view with some rows before it, if it is not well in it. */
  lead(index: number): void {
    const [first, fits] = [this.first(), this.fits()];
    if (index < first || index >= first + fits - 1) this.go(index - Math.floor(fits / 3));
  }

  /** Brings a row into view, if it is not. */
  show(index: number): void {
    if (index < this.first()) this.go(index);
    else if (index >= Math.floor(this.first()) + this.fits()) this.go(index - this.fits() + 1);
  }

  /** Finds where a column begins, in pixels from where the first one does. */
  leftOf(column: number): number {
    return this.layout()
      .slice(0, column)
      .reduce((sum, { width }) => sum + width, 0);
  }

  /**
   * Brings a column into view beside the first one, which always is.
   * @param covered width in pixels of what stands before the columns at the right edge of the view
   */
  showAside(column: number, covered: number): void {
    if (!this.element) return;
    const layout = this.layout();
    const [left, firstWidth] = [this.leftOf(column), layout[0].width];
    const right = GUTTER + left + layout[column].width;
    if (column === 0) this.element.scrollLeft = 0;
    else if (left - firstWidth < this.element.scrollLeft) this.element.scrollLeft = left - firstWidth;
    else {
      const room = this.viewWidth() - covered;
      if (right > this.element.scrollLeft + room) this.element.scrollLeft = right - room;
    }
  }
}
