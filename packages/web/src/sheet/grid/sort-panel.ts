import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import type { WireSortLevel } from '@usual-needle/contract';
import { Choose } from '../../look/choose';
import { GROUP_WAYS, waysOf } from './ways';
import { SheetStore } from '../state/sheet-store';

/** The panel of sorting, level by level. */
@Component({
  selector: 'un-sort-panel',
  imports: [Choose],
  template: `
    @for (level of levels(); track level.column) {
      <div>
        <span class="then">{{ $first ? 'Sorted by' : 'then by' }}</span>
        <b>{{ level.column }}</b>
        <un-choose
          [options]="level.ways"
          [value]="level.way"
          [label]="'How ' + level.column + ' is sorted'"
          (chosen)="set($index, $event)"
        />
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
    <div>
      <span class="then">{{ levels().length === 0 ? 'Sort by' : 'then by' }}</span>
      <un-choose
        [options]="others()"
        value=""
        label="Column to sort by"
        placeholder="a column …"
        (chosen)="add($event)"
      />
    </div>
    @if (levels().length > 0) {
      <button type="button" class="plain" (click)="store.update({ sort: [] })">Back to the table’s own order</button>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 6px;
    }
    :host {
      max-width: 84vw;
    }
    div {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 8px;
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
      overflow-wrap: anywhere;
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
      const [up, down] = waysOf(this.store.table()?.columns.find(({ name }) => name === column));
      return {
        column,
        way: `${by} ${direction}`,
        ways: [
          { value: 'value up', name: up },
          { value: 'value down', name: down },
          { value: 'count down', name: GROUP_WAYS[1] },
          { value: 'count up', name: GROUP_WAYS[0] },
        ],
      };
    }),
  );
  protected readonly others = computed(() => {
    const taken = new Set(this.store.sort().map(({ column }) => column));
    return (this.store.table()?.columns ?? [])
      .filter(({ name }) => !taken.has(name))
      .map(({ name }) => ({ name, value: name }));
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
