import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { SheetStore } from '../state/sheet-store';

/** Says of a table that is looked at as it was, which moment that is, and leads out of it. */
@Component({
  selector: 'un-earlier',
  imports: [RouterLink],
  template: `
    @if (store.table(); as table) {
      <p role="note">
        <span
          ><b>{{ table.name }} as it was</b> on <time [attr.datetime]="table.changedAt" [textContent]="when()"></time>,
          after change {{ table.change }}. To look at, not to change.</span
        >
        <a class="like-link" [href]="'/api/tables/' + table.now + '/copy?at=' + table.change">Take it out as CSV</a>
        <a class="like-link" [routerLink]="['/table', table.now]">To the table as it is now</a>
      </p>
    }
  `,
  styles: `
    p {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 14px;
      margin: 0;
      padding: 6px 12px;
      background: var(--header);
      border: 1px dashed var(--hairline);
      border-radius: 6px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Earlier {
  protected readonly store = inject(SheetStore);
  protected readonly when = computed(() => {
    const at = this.store.table()?.changedAt;
    return at === undefined ? '' : new Date(at).toLocaleString('en-GB', { dateStyle: 'long', timeStyle: 'medium' });
  });
}
