import { ChangeDetectionStrategy, Component, effect, inject, input, output, signal, untracked } from '@angular/core';
import type { Column } from '@usual-needle/contract';
import { PickerOffers } from '../narrowing/picker-offers';

/** The values of a choice column, to be put in an order of their own. */
@Component({
  selector: 'un-value-order',
  providers: [PickerOffers],
  template: `
    @switch (offers.offered().state) {
      @case ('waiting') {
        <p>Fetching the values …</p>
      }
      @case ('failed') {
        <p role="alert">{{ $any(offers.offered()).message }}</p>
      }
    }
    <ol>
      @for (value of values(); track value) {
        <li>
          <span>{{ value }}</span>
          <button
            type="button"
            class="item"
            [disabled]="$first"
            [attr.aria-label]="'Earlier: ' + value"
            (click)="lift($index)"
          >
            ↑
          </button>
        </li>
      }
    </ol>
    @if (values().length > 0) {
      <button type="button" class="plain" (click)="kept.emit(values())">Keep this order</button>
    }
    @if (column().order) {
      <button type="button" class="plain" (click)="kept.emit(null)">Back to A to Z</button>
    }
  `,
  styles: `
    ol {
      margin: 0 0 4px;
      padding: 0 8px 0 30px;
    }
    span {
      display: inline-block;
      min-width: 140px;
    }
    li button {
      padding: 2px 8px;
      border: 0;
      background: none;
    }
    li button:disabled {
      opacity: 0.3;
    }
    p {
      padding: 4px 8px;
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ValueOrder {
  protected readonly offers = inject(PickerOffers);
  readonly column = input.required<Column>();
  /** The order made; null for none. */
  readonly kept = output<readonly string[] | null>();
  protected readonly values = signal<readonly string[]>([]);

  constructor() {
    effect(() => {
      const column = this.column().name;
      untracked(() => {
        this.values.set([]);
        this.offers.ask({ column, of: 'values' });
      });
    });
    // As they are ordered now, then those that are not.
    effect(() => {
      const offered = this.offers.offered();
      if (offered.state !== 'there') return;
      const all = offered.offers.values.map(({ value }) => value).filter((value) => value !== '');
      const before = (this.column().order ?? []).filter((value) => all.includes(value));
      this.values.set([...before, ...all.filter((value) => !before.includes(value)).sort()]);
    });
  }

  protected lift(at: number): void {
    const values = [...this.values()];
    [values[at - 1], values[at]] = [values[at], values[at - 1]];
    this.values.set(values);
  }
}
