import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import { counted } from '../../services/numbers';
import type { Picker } from '../state/box-change';
import { PickerOffers } from './picker-offers';
import { RangeBars } from './range-bars';

type Numbers = Extract<Picker, { numbers: unknown }>;

/** From one number to another, both included. */
@Component({
  selector: 'un-numbers-picker',
  imports: [RangeBars],
  providers: [PickerOffers],
  template: `
    <un-range-bars [range]="range()" />
    <div class="range">
      <label
        >from
        <input
          #from
          autofocus
          class="entry"
          inputmode="decimal"
          [value]="text(picker().numbers.from)"
          [placeholder]="least()"
          (change)="set(from.value, to.value)"
      /></label>
      <label
        >to
        <input
          #to
          class="entry"
          inputmode="decimal"
          [value]="text(picker().numbers.to)"
          [placeholder]="most()"
          (change)="set(from.value, to.value)"
      /></label>
    </div>
    <p class="note" role="status">{{ said() }}</p>
  `,
  styles: `
    .range {
      display: flex;
      gap: 12px;
    }
    input {
      width: 110px;
    }
    .note {
      min-height: 20px;
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NumbersPicker {
  private readonly offers = inject(PickerOffers);
  readonly picker = input.required<Numbers>();
  readonly changed = output<Picker>();
  protected readonly said = signal('');
  private readonly column = computed(() => this.picker().column);

  protected readonly range = computed(() => {
    const offered = this.offers.offered();
    return offered.state === 'there' ? offered.offers.range : null;
  });
  protected readonly least = computed(() => (this.range() ? counted(this.range()!.least) : ''));
  protected readonly most = computed(() => (this.range() ? counted(this.range()!.most) : ''));

  constructor() {
    effect(() => {
      const column = this.column();
      untracked(() => this.offers.ask({ column, of: 'range' }));
    });
  }

  protected text(value: number | null): string {
    return value === null ? '' : String(value);
  }

  protected set(fromText: string, toText: string): void {
    const [from, to] = [readBound(fromText), readBound(toText)];
    if (from === undefined || to === undefined) {
      this.said.set('That is no number; nothing was changed.');
      return;
    }
    const reversed = from !== null && to !== null && from > to;
    this.said.set(reversed ? 'The ends were the wrong way round and were swapped.' : '');
    const numbers = reversed ? { from: to, to: from } : { from, to };
    if (JSON.stringify(numbers) !== JSON.stringify(this.picker().numbers))
      this.changed.emit({ ...this.picker(), numbers });
  }
}

/** A number as it is typed; null for none, undefined if it cannot be read. */
export function readBound(text: string): number | null | undefined {
  const plain = text
    .trim()
    .replace(/[\s\u00a0]/g, '')
    .replace(/,(?=\d{3}(?:\D|$))/g, '')
    .replace('\u2212', '-');
  if (plain === '') return null;
  const number = Number(plain);
  return Number.isFinite(number) ? number : undefined;
}
