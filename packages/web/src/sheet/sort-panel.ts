import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import type { WireSortLevel } from '@usual-needle/contract';
import { waysOf } from './column-menu';
import { SheetStore } from './sheet-store';

/** What the rows are sorted by, level by level. */
@Component({
  selector: 'un-sort-panel',
  template: `
    @for (level of levels(); track level.column) {
      <div>
        <span class="then">{{ $first ? 'Sorted by' : 'then by' }}</span>
        <b>{{ level.column }}</b>
        <select
          class="entry"
          [attr.aria-label]="'How ' + level.column + ' is sorted'"
          (change)="set($index, $any($event.target).value)"
        >
          @for (way of level.ways; track way.value) {
            <option [value]="way.value" [selected]="way.value === level.way">{{ way.name }}</option>
          }
        </select>
        <button
          type="button"
          [disabled]="$first"
          [attr.aria-label]="'Sort by ' + level.column + ' earlier'"
          (click)="lift($index)"
        >
          ↑
        </button>
        <button type="button" [attr.aria-label]="'Do not sort by ' + level.column" (click)="remove($index)">
          Remove
        </button>
      </div>
    } @empty {
      <p>In the table’s own order.</p>
    }
    <label
      >{{ levels().length === 0 ? 'Sort by' : 'then by' }}
      <select class="entry" #further (change)="add(further.value); further.value = ''">
        <option value="">a column …</option>
        @for (name of others(); track name) {
          <option>{{ name }}</option>
        }
      </select>
    </label>
    @if (levels().length > 0) {
      <button type="button" class="plain" (click)="store.update({ sort: [] })">Back to the table’s own order</button>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 6px;
    }
    div {
      display: flex;
      align-items: center;
      gap: 8px;
    }
    .then,
    label,
    p {
      color: var(--soft-ink);
    }
    .then {
      width: 64px;
    }
    b {
      min-width: 110px;
    }
    div button {
      padding: 3px 6px;
      border: 0;
      background: none;
      color: var(--soft-ink);
    }
    div button:disabled {
      opacity: 0.3;
    }
    .plain {
      justify-self: start;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SortPanel {
  protected readonly store = inject(SheetStore);

  protected readonly levels = computed(() =>
    this.store.sort().map(({ column, direction, by = 'value' }) => {
      const [up, down] = waysOf(this.store.table()?.columns.find(({ name }) => name === column)?.kind);
      return {
        column,
        way: `${by} ${direction}`,
        ways: [
          { value: 'value up', name: up },
          { value: 'value down', name: down },
          { value: 'count down', name: 'most shared values first' },
          { value: 'count up', name: 'least shared values first' },
        ],
      };
    }),
  );
  protected readonly others = computed(() => {
    const taken = new Set(this.store.sort().map(({ column }) => column));
    return (this.store.table()?.columns ?? []).map(({ name }) => name).filter((name) => !taken.has(name));
  });

  private change(edit: (sort: WireSortLevel[]) => void): void {
    const sort = [...this.store.sort()];
    edit(sort);
    this.store.update({ sort });
  }

  protected set(at: number, way: string): void {
    const [by, direction] = way.split(' ') as ['value' | 'count', 'up' | 'down'];
    this.change((sort) => (sort[at] = { ...sort[at], by, direction }));
  }

  protected add(column: string): void {
    if (column !== '') this.change((sort) => sort.push({ column, direction: 'up' }));
  }

  protected lift(at: number): void {
    this.change((sort) => sort.splice(at - 1, 2, sort[at], sort[at - 1]));
  }

  protected remove(at: number): void {
    this.change((sort) => sort.splice(at, 1));
  }
}
