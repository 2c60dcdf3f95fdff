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
import { isComposing } from '../../common/composing';
import { counted } from '../../services/numbers';
import type { BoxPicker } from '../state/box-change';
import { PickerOffers } from './picker-offers';
import { InputText } from 'primeng/inputtext';

type Choices = Extract<BoxPicker, { values: unknown }>;

/** A list of values with their counts: all, none or the others at once; more by asking on. */
@Component({
  selector: 'un-choice-picker',
  imports: [InputText],
  providers: [PickerOffers],
  template: `
    <input
      autofocus
      pInputText
      class="entry"
      type="text"
      placeholder="Type to find a value"
      aria-label="Find a value"
      autocomplete="off"
      (input)="find($event)"
      (compositionend)="find($event)"
    />
    <div class="all">
      <button type="button" class="plain" (click)="set(names())">All</button>
      <button type="button" class="plain" (click)="set([])">None</button>
      <button type="button" class="plain" (click)="others()">The others</button>
    </div>
    <div class="list" role="group" [attr.aria-label]="'Values of ' + picker().column">
      @for (value of lost(); track value) {
        <label class="lost">
          <input type="checkbox" class="item" checked (change)="toggle(value)" />
          <span class="value">{{ value || 'blank' }}</span> <span class="rows">in no row any more</span>
        </label>
      }
      @for (offer of values(); track offer.value) {
        <label>
          <input type="checkbox" class="item" [checked]="chosen().has(offer.value)" (change)="toggle(offer.value)" />
          <span class="value">{{ offer.value || 'blank' }}</span>
          <span class="rows">{{ counted(offer.rows) }}</span>
        </label>
      }
      @switch (offers.offered().state) {
        @case ('waiting') {
          <p class="note">Fetching the values …</p>
        }
        @case ('failed') {
          <p class="note" role="alert">{{ offers.message() }}</p>
        }
        @default {
          @if (values().length === 0) {
            <p class="note">No value like that.</p>
          }
        }
      }
    </div>
    @if (left() > 0) {
      <button type="button" class="plain" (click)="more()">{{ counted(left()) }} more values</button>
    }
  `,
  styles: `
    .entry {
      width: 100%;
      max-width: none;
      padding: 5px 9px;
    }
    .all {
      display: flex;
      gap: 2px;
      margin: 2px -6px;
    }
    .list {
      display: grid;
      max-height: 44vh;
      min-width: 240px;
      max-width: min(420px, 84vw);
      overflow: auto;
    }
    label {
      display: flex;
      gap: 8px;
      padding: 3px 4px;
    }
    input {
      accent-color: var(--thread);
    }
    .value {
      flex: 1;
      overflow-wrap: anywhere;
    }
    .rows,
    .note {
      color: var(--soft-ink);
      font-variant-numeric: tabular-nums;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ChoicePicker {
  protected readonly offers = inject(PickerOffers);
  protected readonly counted = counted;
  readonly picker = input.required<Choices>();
  readonly changed = output<BoxPicker>();

  private readonly typed = signal('');
  private readonly column = computed(() => this.picker().column);
  protected readonly chosen = computed(() => new Set(this.picker().values));
  protected readonly values = computed(() => {
    const offered = this.offers.offered();
    return offered.state === 'there' ? offered.offers.values : [];
  });
  protected readonly names = computed(() => this.values().map(({ value }) => value));
  protected readonly left = computed(() => {
    const offered = this.offers.offered();
    return offered.state === 'there' ? offered.offers.count - offered.offers.values.length : 0;
  });
  /** Picked, and no longer there: it can be unticked. */
  protected readonly lost = computed(() => {
    if (this.offers.offered().state !== 'there' || this.typed() !== '' || this.left() > 0) return [];
    const there = new Set(this.names().map((name) => name.toLowerCase()));
    return this.picker().values.filter((value) => !there.has(value.toLowerCase()));
  });

  constructor() {
    effect(() => {
      const [column, holding] = [this.column(), this.typed()];
      untracked(() => this.offers.ask({ column, of: 'values', holding }));
    });
  }

  protected find(event: Event): void {
    if (!isComposing(event)) this.typed.set((event.target as HTMLInputElement).value);
  }

  protected more(): void {
    this.offers.ask({ column: this.column(), of: 'values', holding: this.typed(), offset: this.values().length });
  }

  protected set(values: readonly string[]): void {
    // Of values that are found by typing, the rest stay as they are.
    const shown = new Set(this.names());
    const kept = this.typed() === '' ? [] : this.picker().values.filter((value) => !shown.has(value));
    this.changed.emit({ ...this.picker(), values: [...kept, ...values].slice(0, 1_000) });
  }

  protected others(): void {
    this.set(this.names().filter((name) => !this.chosen().has(name)));
  }

  protected toggle(value: string): void {
    const { values } = this.picker();
    const next = values.includes(value) ? values.filter((one) => one !== value) : [...values, value];
    this.changed.emit({ ...this.picker(), values: next });
  }
}
