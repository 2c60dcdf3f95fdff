import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Column } from '@usual-needle/contract';
import type { ColumnLook } from '@usual-needle/formats';
import { kindOf, KINDS } from '../common/column-kinds';
import { InputText } from 'primeng/inputtext';

/** Name and kind of one column, and whether it comes in. */
@Component({
  selector: 'un-column-choices',
  imports: [InputText],
  template: `
    <form (submit)="$event.preventDefault(); rename(field.value); done.emit()">
      <label
        >Name
        <input
          #field
          pInputText
          class="entry"
          maxlength="200"
          [value]="column().column.name"
          (change)="rename(field.value)"
      /></label>
    </form>
    <div class="choices" role="radiogroup" aria-label="Kind">
      @for (choice of kinds; track choice.words) {
        <button
          type="button"
          role="radio"
          [attr.aria-checked]="choice === current()"
          (click)="changed.emit(choice.to); done.emit()"
        >
          {{ choice.words }}
        </button>
      }
    </div>
    <button type="button" class="plain" (click)="changed.emit({ take: !column().taken }); done.emit()">
      {{ column().taken ? 'Leave this column out' : 'Bring this column in' }}
    </button>
  `,
  styles: `
    form {
      padding: 4px 10px 8px;
    }
    label {
      display: flex;
      gap: 8px;
      align-items: center;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ColumnChoices {
  readonly column = input.required<ColumnLook>();
  readonly changed = output<Partial<Column> & { take?: boolean }>();
  readonly done = output<void>();
  protected readonly kinds = KINDS;
  protected readonly current = computed(() => kindOf(this.column().column));

  protected rename(name: string): void {
    if (name.trim() !== '' && name.trim() !== this.column().column.name) this.changed.emit({ name: name.trim() });
  }
}
