import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { counted } from '../../services/numbers';

/** The trace: where in the whole table the hits lie, and which part of it is on screen. A click goes there, and so do keys. */
@Component({
  selector: 'un-trace',
  template: `
    <svg viewBox="0 0 16 1000" preserveAspectRatio="none" aria-hidden="true">
      <path [attr.d]="ticks()" />
    </svg>
    <div class="view" [style.top.%]="view().top" [style.height.%]="view().height"></div>
  `,
  host: {
    role: 'slider',
    tabindex: '0',
    '[attr.aria-label]': 'label()',
    'aria-orientation': 'vertical',
    'aria-valuemin': '0',
    'aria-valuemax': '100',
    '[attr.aria-valuenow]': 'now()',
    '[attr.aria-valuetext]': 'said()',
    '(click)': 'jump($event)',
    '(keydown)': 'key($event)',
  },
  styles: `
    :host {
      position: relative;
      display: block;
      width: 16px;
      border-left: 1px solid var(--faint);
      background: var(--header);
      cursor: pointer;
    }
    :host:focus-visible {
      outline-offset: -2px;
    }
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    path {
      stroke: var(--tick, var(--thread));
      stroke-width: 2;
      vector-effect: non-scaling-stroke;
    }
    .view {
      position: absolute;
      left: 0;
      right: 0;
      min-height: 14px;
      border: 1px solid var(--soft-ink);
      border-radius: 4px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TraceStrip {
  readonly label = input('Where the hits lie');
  /** The word for one hit; that for several follows. */
  readonly one = input('row matches');
  readonly many = input('rows match');
  /** Hits in equal parts of the whole table, first to last. */
  readonly bins = input<readonly number[]>([]);
  /** The place in the list of the first row on show that lies in each part or after it. */
  readonly starts = input<readonly number[]>([]);
  /** Part of the table on screen, as fractions of it. */
  readonly from = input(0);
  readonly to = input(0);
  /** Place in the list to go to. */
  readonly went = output<number>();

  protected readonly ticks = computed(() => {
    const bins = this.bins();
    return bins.map((hits, i) => (hits > 0 ? `M3 ${(((i + 0.5) / bins.length) * 1000).toFixed(1)}h10` : '')).join('');
  });
  protected readonly view = computed(() => ({
    top: this.from() * 100,
    height: Math.max(0, this.to() - this.from()) * 100,
  }));
  protected readonly now = computed(() => Math.round(this.from() * 100));
  protected readonly said = computed(() => {
    const hits = this.bins().reduce((sum, one) => sum + one, 0);
    return `${this.now()} percent down the table; ${counted(hits)} ${hits === 1 ? this.one() : this.many()}`;
  });

  protected jump(event: MouseEvent): void {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    this.go(Math.floor(((event.clientY - box.top) / box.height) * this.bins().length));
  }

  private go(bin: number): void {
    const start = this.starts()[Math.min(this.starts().length - 1, Math.max(0, bin))];
    if (start !== undefined) this.went.emit(start);
  }

  /** Goes to the next or previous part with hits, or to the ends. */
  protected key(event: KeyboardEvent): void {
    const bins = this.bins();
    const at = Math.floor(this.from() * bins.length + 1e-9);
    const next = (): number => bins.findIndex((hits, i) => i > at && hits > 0);
    const before = (): number => bins.reduce((last, hits, i) => (i < at && hits > 0 ? i : last), -1);
    const moves: Readonly<Record<string, () => number>> = {
      ArrowDown: next,
      ArrowRight: next,
      ArrowUp: before,
      ArrowLeft: before,
      PageDown: () => at + Math.ceil(bins.length / 10),
      PageUp: () => at - Math.ceil(bins.length / 10),
      Home: () => 0,
      End: () => bins.length - 1,
    };
    const move = moves[event.key];
    if (!move || bins.length === 0) return;
    event.preventDefault();
    const bin = move();
    if (bin >= 0 || event.key === 'PageUp') this.go(bin);
  }
}
