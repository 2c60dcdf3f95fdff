import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Picker } from '../state/box-change';
import { AnswerPicker } from './answer-picker';
import { ChoicePicker } from './choice-picker';
import { DaysPicker } from './days-picker';
import { LettersPicker } from './letters-picker';
import { NumbersPicker } from './numbers-picker';

/** What an open picker shows, by what it narrows by. */
@Component({
  selector: 'un-picker-panel',
  imports: [AnswerPicker, ChoicePicker, DaysPicker, LettersPicker, NumbersPicker],
  template: `
    @switch (sort()) {
      @case ('values') {
        <un-choice-picker [picker]="$any(picker())" (changed)="changed.emit($event)" />
      }
      @case ('days') {
        <un-days-picker [picker]="$any(picker())" (changed)="changed.emit($event)" />
      }
      @case ('numbers') {
        <un-numbers-picker [picker]="$any(picker())" (changed)="changed.emit($event)" />
      }
      @case ('letters') {
        <un-letters-picker [picker]="$any(picker())" (changed)="changed.emit($event)" />
      }
      @case ('unfit') {
        <p>Rows whose cell does not fit what the column holds: no date, no number, neither yes nor no.</p>
      }
      @default {
        <un-answer-picker [picker]="$any(picker())" (changed)="changed.emit($event)" />
      }
    }
    @if (removable()) {
      <button type="button" class="plain" (click)="removed.emit()">Remove this picker</button>
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PickerPanel {
  readonly picker = input.required<Picker>();
  readonly removable = input(false);
  readonly changed = output<Picker>();
  readonly removed = output<void>();

  protected readonly sort = computed(() =>
    (['values', 'days', 'numbers', 'letters', 'unfit', 'answer'] as const).find((one) => one in this.picker()),
  );
}
