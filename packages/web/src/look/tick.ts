import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Checkbox } from 'primeng/checkbox';

/** A check box: PrimeNG's, in our dress. It stands in the label that names it. */
@Component({
  selector: 'un-tick',
  imports: [Checkbox, FormsModule],
  template: `
    <p-checkbox
      [binary]="true"
      [ngModel]="checked()"
      [disabled]="disabled()"
      (onChange)="changed.emit($event.checked === true)"
    />
  `,
  host: { style: 'display: inline-flex; flex: none; vertical-align: -3px' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Tick {
  readonly checked = input(false);
  readonly disabled = input(false);
  readonly changed = output<boolean>();
}
