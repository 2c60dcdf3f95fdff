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
import type { BoxPicker } from '../state/box-change';
import { PickerOffers } from './picker-offers';
import { RangeBars } from './range-bars';
import { SheetStore } from '../state/sheet-store';
import { numbersExpected, typedNumber, writtenNumber } from './typed-values';
import { InputText } from 'primeng/inputtext';

type NumberRange = Extract<BoxPicker, { numbers: unknown }>;

/** Narrows from one number to another, both included. */
@Component({
  selector: 'un-numbers-picker',
  imports: [InputText, RangeBars],
  providers: [PickerOffers],
  template: `
    <un-range-bars [range]="range()" />
    <div class="range">
      <label
        >from
        <input
          #from
          autofocus
          pInputText
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
          pInputText
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
  private readonly store = inject(SheetStore);
  readonly picker = input.required<NumberRange>();
  readonly changed = output<BoxPicker>();
  protected readonly said = signal('');
  private readonly column = computed(() => this.picker().column);
  private readonly spec = computed(() => this.store.table()?.columns.find(({ name }) => name === this.column()));

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
    const column = this.spec();
    return value === null ? '' : column ? writtenNumber(value, column) : String(value);
  }

  protected set(fromText: string, toText: string): void {
    const column = this.spec();
    if (!column) return;
    const [from, to] = [typedNumber(fromText, column), typedNumber(toText, column)];
    if (from === undefined || to === undefined) {
      this.said.set(numbersExpected(from === undefined ? fromText : toText, column, this.range()?.most));
      return;
    }
    const reversed = from !== null && to !== null && from > to;
    this.said.set(reversed ? 'The ends were the wrong way round and were swapped.' : '');
    const numbers = reversed ? { from: to, to: from } : { from, to };
    if (JSON.stringify(numbers) !== JSON.stringify(this.picker().numbers))
      this.changed.emit({ ...this.picker(), numbers });
  }
}
