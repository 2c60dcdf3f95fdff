import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';

/** The trace: where in the whole table the hits lie, and which part of it is on screen. A click goes there. */
@Component({
  selector: 'un-trace',
  template: `
    <svg viewBox="0 0 16 1000" preserveAspectRatio="none" aria-hidden="true">
      <path [attr.d]="ticks()" />
    </svg>
    <div class="view" [style.top.%]="view().top" [style.height.%]="view().height"></div>
  `,
  host: { role: 'presentation', '(click)': 'jump($event)' },
  styles: `
    :host {
      position: relative;
      display: block;
      width: 16px;
      border-left: 1px solid var(--faint);
      background: var(--header);
      cursor: pointer;
    }
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    path {
      stroke: var(--thread);
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
export class Trace {
  /** Hits in equal parts of the whole table, first to last. */
  readonly bins = input<readonly number[]>([]);
  /** Part of the table on screen, as fractions of it. */
  readonly from = input(0);
  readonly to = input(0);
  /** Number of matches before the place clicked. */
  readonly went = output<number>();

  protected readonly ticks = computed(() => {
    const bins = this.bins();
    return bins.map((hits, i) => (hits > 0 ? `M3 ${(((i + 0.5) / bins.length) * 1000).toFixed(1)}h10` : '')).join('');
  });

  protected readonly view = computed(() => ({
    top: this.from() * 100,
    height: Math.max(0, this.to() - this.from()) * 100,
  }));

  protected jump(event: MouseEvent): void {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const bin = Math.floor(((event.clientY - box.top) / box.height) * this.bins().length);
    this.went.emit(
      this.bins()
        .slice(0, bin)
        .reduce((sum, hits) => sum + hits, 0),
    );
  }
}
