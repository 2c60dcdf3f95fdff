import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { errorWords } from '../../common/error-words';
import { Api } from '../../services/api';
import { Person } from '../../services/person';
import { Remarks } from '../../services/remarks';
import { Following } from '../live/following';
import { SheetStore } from '../state/sheet-store';
import { Tick } from '../../look/tick';

/** The columns of the table, to be threaded, or to be shown and put in order. */
@Component({
  selector: 'un-column-list',
  imports: [Tick],
  template: `
    <fieldset>
      <legend>{{ of() === 'threaded' ? 'Looks in' : 'Shows, from the left' }}</legend>
      @for (column of columns(); track column.name) {
        <div>
          <label
            ><un-tick
              [checked]="column.on"
              [disabled]="column.only"
              [title]="column.only ? 'One column always stays' : ''"
              (changed)="toggle(column.name)"
            />{{ column.name }}</label
          >
          @if (of() === 'shown' && column.on) {
            <button
              type="button"
              [disabled]="$first"
              [attr.aria-label]="'Move ' + column.name + ' to the left'"
              (click)="store.moveColumn(column.name, -1)"
            >
              ↑
            </button>
            <button
              type="button"
              [disabled]="column.last"
              [attr.aria-label]="'Move ' + column.name + ' to the right'"
              (click)="store.moveColumn(column.name, 1)"
            >
              ↓
            </button>
          }
        </div>
      }
    </fieldset>
    @if (of() === 'threaded') {
      <button type="button" class="plain" (click)="every()">Every column</button>
      <button type="button" class="plain" (click)="none()">None</button>
    } @else {
      <button type="button" class="plain" (click)="store.update({ columns: undefined })">
        All, as the table has them
      </button>
      @if (store.buildable()) {
        <button type="button" class="plain" [disabled]="asTable()" (click)="order()">
          Make this the table’s order
        </button>
      }
    }
  `,
  styles: `
    fieldset {
      display: grid;
      gap: 2px;
      max-height: 56vh;
      min-width: 230px;
      overflow: auto;
      margin: 0 0 8px;
      padding: 0 8px 0 2px;
      border: 0;
    }
    legend {
      padding: 0 0 6px;
      color: var(--soft-ink);
    }
    div {
      display: flex;
      align-items: center;
      min-height: 26px;
    }
    label {
      display: flex;
      flex: 1;
      gap: 8px;
    }
    input {
      accent-color: var(--thread);
    }
    div button {
      width: 26px;
      height: 24px;
      padding: 0;
      border: 0;
      background: none;
      color: var(--soft-ink);
    }
    div button:hover:enabled {
      color: var(--thread);
    }
    div button:disabled {
      opacity: 0.3;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ColumnList {
  protected readonly store = inject(SheetStore);
  private readonly api = inject(Api);
  private readonly following = inject(Following);
  private readonly person = inject(Person);
  private readonly remarks = inject(Remarks);
  readonly of = input.required<'threaded' | 'shown'>();

  protected readonly columns = computed(() => {
    const all = (this.store.table()?.columns ?? []).map(({ name }) => name);
    if (this.of() === 'threaded') {
      const threaded = new Set(this.store.threaded());
      return all.map((name) => ({ name, on: threaded.has(name), last: false, only: false }));
    }
    const shown = this.store.layout().map(({ name }) => name);
    return [
      ...shown.map((name, i) => ({ name, on: true, last: i === shown.length - 1, only: shown.length === 1 })),
      ...all.filter((name) => !shown.includes(name)).map((name) => ({ name, on: false, last: false, only: false })),
    ];
  });

  /** True if the columns on show stand as the table has them. */
  protected readonly asTable = computed(() => {
    const shown = this.store.layout().map(({ name }) => name);
    const all = (this.store.table()?.columns ?? []).map(({ name }) => name);
    return shown.every((name, i) => name === all.filter((one) => shown.includes(one))[i]);
  });

  /** Orders the table's columns for everybody: a new box shows them so. */
  protected order(): void {
    const table = this.store.table();
    if (!table) return;
    const order = this.store.layout().map((column) => column.name);
    this.api.arrangeColumns(table, { order, ...this.person.asWho() }).subscribe({
      next: (changed) => {
        this.following.retable(changed);
        this.remarks.say('The columns stand so in the table, for everybody.');
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  protected toggle(name: string): void {
    if (this.of() === 'threaded') this.store.toggleThread(name);
    else this.store.toggleShown(name);
  }

  protected every(): void {
    this.store.update({ everyColumn: true });
  }

  protected none(): void {
    this.store.update({ threaded: [], everyColumn: undefined });
  }
}
