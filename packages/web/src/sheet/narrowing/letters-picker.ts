import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, untracked } from '@angular/core';
import { counted } from '../../services/numbers';
import type { BoxPicker } from '../state/box-change';
import { PickerOffers } from './picker-offers';

type Letters = Extract<BoxPicker, { letters: unknown }>;

/** The letters that cells start with, or contain. */
@Component({
  selector: 'un-letters-picker',
  providers: [PickerOffers],
  template: `
    <div class="choices row" role="radiogroup" aria-label="Where the letter stands">
      @for (one of positions; track one) {
        <button type="button" role="radio" [attr.aria-checked]="position() === one" (click)="place(one)">
          {{ one }} with
        </button>
      }
    </div>
    <div class="strip" role="group" aria-label="Letters">
      @for (letter of letters(); track letter.value) {
        <button
          type="button"
          class="item"
          [class.on]="picker().letters.includes(letter.value)"
          [attr.aria-pressed]="picker().letters.includes(letter.value)"
          [title]="counted(letter.rows) + ' rows'"
          (click)="toggle(letter.value)"
        >
          {{ letter.value.toUpperCase() }}<small>{{ counted(letter.rows) }}</small>
        </button>
      }
    </div>
    @switch (offers.offered().state) {
      @case ('waiting') {
        <p class="note">Fetching the letters …</p>
      }
      @case ('failed') {
        <p class="note" role="alert">{{ offers.message() }}</p>
      }
    }
  `,
  styles: `
    .strip {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      width: min(340px, 80vw);
      max-height: 40vh;
      overflow: auto;
      margin: 6px 0 8px;
    }
    .strip button {
      width: 44px;
      padding: 3px 0 2px;
      background: var(--paper);
      border: 1px solid var(--hairline);
      border-radius: 6px;
      line-height: 1.2;
    }
    .strip button.on {
      border-color: var(--thread);
      box-shadow: inset 0 -3px 0 var(--thread);
    }
    small {
      display: block;
      font-size: 10.5px;
      color: var(--soft-ink);
      font-variant-numeric: tabular-nums;
    }
    .note {
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LettersPicker {
  protected readonly offers = inject(PickerOffers);
  protected readonly counted = counted;
  protected readonly positions = ['starts', 'contains'] as const;
  readonly picker = input.required<Letters>();
  readonly changed = output<BoxPicker>();

  private readonly column = computed(() => this.picker().column);
  protected readonly position = computed(() => this.picker().position ?? 'starts');
  protected readonly letters = computed(() => {
    const offered = this.offers.offered();
    return offered.state === 'there' ? offered.offers.values : [];
  });

  constructor() {
    effect(() => {
      const [column, position] = [this.column(), this.position()];
      untracked(() => this.offers.ask({ column, of: position }));
    });
  }

  protected place(position: Letters['position']): void {
    this.changed.emit({ ...this.picker(), position });
  }

  protected toggle(letter: string): void {
    const { letters } = this.picker();
    const next = letters.includes(letter) ? letters.filter((one) => one !== letter) : [...letters, letter];
    this.changed.emit({ ...this.picker(), letters: next });
  }
}
