import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { catchError, map, merge, of, startWith, switchMap } from 'rxjs';
import { ago } from '../../common/ago';
import { errorWords } from '../../common/error-words';
import { Api } from '../../services/api';
import { cellsOf, storedNames } from '../keep/history-drawer';
import { Live } from '../live/live';
import { SheetStore } from '../state/sheet-store';

/** The history of one row, last first. */
@Component({
  selector: 'un-row-history',
  template: `
    @if (told(); as list) {
      @for (entry of list.entries; track entry.number) {
        <article>
          <p>
            <span class="when">{{ entry.when }}</span> {{ entry.who }} {{ entry.what }}
          </p>
          @for (cell of entry.cells; track cell.column) {
            <p class="cell">
              {{ cell.column }}: <del>{{ cell.before }}</del>&ngsp;<ins>{{ cell.after }}</ins>
            </p>
          }
        </article>
      } @empty {
        <p class="none">{{ list.problem || 'As it was brought in: nobody has changed it.' }}</p>
      }
    } @else {
      <p class="none" role="status">Fetching its history …</p>
    }
  `,
  styles: `
    article,
    .none {
      padding: 6px 0;
      border-top: 1px solid var(--faint);
      overflow-wrap: anywhere;
    }
    .when {
      float: right;
      margin-left: 8px;
    }
    .when,
    .none,
    del {
      color: var(--soft-ink);
    }
    ins {
      text-decoration: none;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RowHistoryList {
  private readonly api = inject(Api);
  private readonly live = inject(Live);
  private readonly store = inject(SheetStore);
  readonly row = input.required<number>();

  private readonly asked = computed(() => ({ table: this.store.table()?.id, row: this.row() }));
  protected readonly told = toSignal(
    toObservable(this.asked).pipe(
      switchMap(({ table, row }) =>
        merge(of(undefined), this.live.news).pipe(
          switchMap(() => {
            if (table === undefined) return of(undefined);
            const names = storedNames(this.store.table());
            return this.api.rowHistory(table, row).pipe(
              map(({ entries }) => ({
                problem: '',
                entries: entries.map(({ number, who, at, before, after }) => ({
                  number,
                  who: who ?? 'Someone',
                  what: before === null ? 'added it' : after === null ? 'removed it' : 'changed',
                  when: ago(at),
                  cells: cellsOf({ before, after }, names),
                })),
              })),
              catchError((error: unknown) => of({ problem: errorWords(error), entries: [] })),
            );
          }),
          startWith(undefined),
        ),
      ),
    ),
  );
}
