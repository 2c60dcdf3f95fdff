import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { Borrows } from '@usual-needle/contract';
import { switchMap } from 'rxjs';
import { LenderTables } from './lender-tables';
import { lentAt } from './lent-at';

/** Names may end in one, too. */
function fullStop(text: string): string {
  return text.endsWith('.') ? text : `${text}.`;
}

/** Where a borrowed column comes from, and the way there: to the table, or to the rows that lend to one key. */
@Component({
  selector: 'un-borrowed-from',
  template: `
    @if (lender(); as table) {
      @if (key() === undefined) {
        <span [textContent]="sentence()"></span>
        <a [href]="'/table/' + table.id">Open {{ table.name }}</a>
      } @else if (key() === '') {
        <span [textContent]="'· borrowed from ' + table.name"></span>
      } @else {
        <a [href]="there()" [textContent]="'in ' + table.name"></a>
      }
    } @else if (lender() === undefined) {
      <span>· borrowed from a table that is not there any more</span>
    }
  `,
  styles: `
    :host {
      color: var(--soft-ink);
    }
    a {
      display: inline-block;
      color: var(--thread);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BorrowedFrom {
  private readonly tables = inject(LenderTables);
  readonly borrows = input.required<Borrows>();
  /** The key of one row; without it, it is about the column. */
  readonly key = input<string>();

  /** Null while it is being fetched, undefined if it is not there. */
  protected readonly lender = toSignal(
    toObservable(this.borrows).pipe(switchMap(({ table }) => this.tables.table(table))),
    { initialValue: null },
  );
  protected readonly sentence = computed(() => {
    const { column, key, matches, several } = this.borrows();
    const which = several === 'all' ? ', all that fit' : '';
    return fullStop(`Borrows ${column} from ${this.lender()?.name ?? ''}, where ${key} is its ${matches}${which}`);
  });
  protected readonly there = computed(() => lentAt(this.borrows(), this.key() ?? ''));
}
