import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { Dependents } from '@usual-needle/contract';
import { catchError, map, of, switchMap } from 'rxjs';
import { Api } from '../services/api';
import { counted, plural } from '../services/numbers';
import { listed } from './sentence';

/** Boxes that are named; the others are counted. */
const NAMED = 6;

/** The list of what lacks something once a table, or one of its columns, is not there: shown before it is removed, with the button that does it. */
@Component({
  selector: 'un-dependents',
  template: `
    <div class="depends">
      @if (told(); as lines) {
        @for (line of lines; track line) {
          <p>{{ line }}</p>
        }
        <button type="button" class="plain" autofocus (click)="goes.emit()">{{ does() }}</button>
      } @else {
        <p>Looking what depends on it …</p>
      }
    </div>
  `,
  styles: `
    .depends {
      max-width: 340px;
      padding: 6px 10px;
    }
    p {
      margin: 0 0 8px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DependentsList {
  private readonly api = inject(Api);
  readonly table = input.required<number>();
  /** The column that is to go; without one, the table. */
  readonly column = input<string>();
  /** The words on the button. */
  readonly does = input.required<string>();
  readonly goes = output<void>();

  protected readonly told = toSignal(
    toObservable(computed(() => ({ table: this.table(), column: this.column() }))).pipe(
      switchMap(({ table, column }) => this.api.dependents(table, column)),
      map((dependents) => dependentsWords(dependents)),
      catchError(() => of(['What depends on it could not be found out.'])),
    ),
  );
}

/** Tells in sentences which boxes depend on it, how often they were opened, and which tables borrow. */
export function dependentsWords({ boxes, borrowers }: Dependents): string[] {
  const lines = borrowers.map(
    ({ name, columns }) => `${name} borrows ${listed(columns)} from it, which will be blank.`,
  );
  const named = [...boxes].sort((a, b) => b.opened - a.opened).slice(0, NAMED);
  for (const { name, opened } of named)
    lines.push(`The box “${name}” uses it: opened ${opened === 0 ? 'never so far' : plural(opened, 'time')}.`);
  if (boxes.length > named.length) lines.push(`So do ${counted(boxes.length - named.length)} more boxes.`);
  return lines.length > 0 ? lines : ['Nothing depends on it.'];
}
