import { ChangeDetectionStrategy, Component, computed, input, output, type Signal } from '@angular/core';
import type { BoxPicker } from '../state/box-change';
import { AnswerPicker } from './answer-picker';
import { ChoicePicker } from './choice-picker';
import { DaysPicker } from './days-picker';
import { LettersPicker } from './letters-picker';
import { NumbersPicker } from './numbers-picker';

/** The panel of an open picker, by what it narrows by. */
@Component({
  selector: 'un-picker-panel',
  imports: [AnswerPicker, ChoicePicker, DaysPicker, LettersPicker, NumbersPicker],
  template: `
    @if (values(); as one) {
      <un-choice-picker [picker]="one" (changed)="changed.emit($event)" />
    } @else if (days(); as one) {
      <un-days-picker [picker]="one" (changed)="changed.emit($event)" />
    } @else if (numbers(); as one) {
      <un-numbers-picker [picker]="one" (changed)="changed.emit($event)" />
    } @else if (letters(); as one) {
      <un-letters-picker [picker]="one" (changed)="changed.emit($event)" />
    } @else if (answer(); as one) {
      <un-answer-picker [picker]="one" (changed)="changed.emit($event)" />
    } @else {
      <p>Rows whose cell does not fit what the column holds: no date, no number, neither yes nor no.</p>
    }
    @if (removable()) {
      <button type="button" class="plain" (click)="removed.emit()">Remove this picker</button>
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PickerPanel {
  readonly picker = input.required<BoxPicker>();
  readonly removable = input(false);
  readonly changed = output<BoxPicker>();
  readonly removed = output<void>();

  protected readonly values = this.narrowing('values');
  protected readonly days = this.narrowing('days');
  protected readonly numbers = this.narrowing('numbers');
  protected readonly letters = this.narrowing('letters');
  protected readonly answer = this.narrowing('answer');

  /** Gives the picker if it narrows by that. */
  private narrowing<K extends string>(by: K): Signal<Extract<BoxPicker, Record<K, unknown>> | undefined> {
    type Narrowing = Extract<BoxPicker, Record<K, unknown>>;
    const is = (picker: BoxPicker): picker is Narrowing => by in picker;
    return computed(() => {
      const picker = this.picker();
      return is(picker) ? picker : undefined;
    });
  }
}
