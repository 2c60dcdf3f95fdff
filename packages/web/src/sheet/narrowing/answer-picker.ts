import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { BoxPicker } from '../state/box-change';

type YesNoPicker = Extract<BoxPicker, { answer: unknown }>;

/** Yes, no, or either. */
@Component({
  selector: 'un-answer-picker',
  template: `
    <div class="choices" role="radiogroup" aria-label="Answer">
      @for (answer of answers; track answer) {
        <button
          type="button"
          role="radio"
          [attr.aria-checked]="picker().answer === answer"
          (click)="changed.emit({ column: picker().column, answer })"
        >
          {{ answer }}
        </button>
      }
    </div>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AnswerPicker {
  protected readonly answers = ['either', 'yes', 'no'] as const;
  readonly picker = input.required<YesNoPicker>();
  readonly changed = output<BoxPicker>();
}
