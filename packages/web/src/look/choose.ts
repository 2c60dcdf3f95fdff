import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Select } from 'primeng/select';

export interface Option {
  readonly name: string;
  readonly value: string;
}

/** Chooses one of a list, in PrimeNG's list in our dress. */
@Component({
  selector: 'un-choose',
  imports: [FormsModule, Select],
  template: `
    <p-select
      [options]="list()"
      optionLabel="name"
      optionValue="value"
      [ngModel]="value()"
      (ngModelChange)="chosen.emit($event)"
      [ariaLabel]="label()"
      [placeholder]="placeholder()"
      [motionOptions]="still"
      appendTo="body"
      size="small"
    />
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Choose {
  readonly options = input.required<readonly Option[]>();
  readonly value = input<string>('');
  readonly label = input.required<string>();
  readonly placeholder = input('');
  readonly chosen = output<string>();
  protected readonly list = computed(() => [...this.options()]);
  protected readonly still = { disabled: true };
}
