import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Offers } from '@usual-needle/contract';

/** Where the rows fall between the least and the most: a small histogram. */
@Component({
  selector: 'un-range-bars',
  template: `
    @for (height of heights(); track $index) {
      <span [style.height.%]="height"></span>
    }
  `,
  host: { 'aria-hidden': 'true' },
  styles: `
    :host {
      display: flex;
      align-items: flex-end;
      gap: 1px;
      height: 48px;
      margin-bottom: 8px;
      border-bottom: 1px solid var(--hairline);
    }
    span {
      flex: 1;
      min-height: 1px;
      background: var(--thread);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RangeBars {
  readonly range = input<Offers['range']>(null);
  protected readonly heights = computed(() => {
    const bins = this.range()?.bins ?? [];
    const most = Math.max(1, ...bins);
    return bins.map((rows) => (rows / most) * 100);
  });
}
