import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import type { Refresh, RefreshRow } from '@usual-needle/contract';
import { counted } from '../services/numbers';

const WHATS = ['added', 'changed', 'gone'] as const;

/** What a refresh would do, row by row: cells as they were and as they will be. */
@Component({
  selector: 'un-refresh-rows',
  template: `
    <div class="which" role="radiogroup" aria-label="Rows shown">
      @for (one of counts(); track one.what) {
        <button type="button" role="radio" [attr.aria-checked]="which() === one.what" (click)="which.set(one.what)">
          <b>{{ one.count }}</b> {{ one.what }}
        </button>
      }
      @if (plan().missing.length > 0) {
        <span>Not in the file, and left as they are: {{ plan().missing.join(', ') }}</span>
      }
    </div>
    <div class="scroll" tabindex="0">
      <table class="preview">
        <thead>
          <tr>
            @for (at of order(); track at) {
              <th scope="col">{{ plan().columns[at].name }}</th>
            }
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track $index) {
            <tr [class]="row.what">
              @for (cell of row.cells; track $index) {
                <td [class.differs]="cell.differs">
                  @if (cell.before !== cell.after && cell.before !== '') {
                    <del>{{ cell.before }}</del>
                  }
                  @if (cell.before === cell.after || cell.after !== '') {
                    <span>{{ cell.after }}</span>
                  }
                </td>
              }
            </tr>
          } @empty {
            <tr>
              <td [attr.colspan]="plan().columns.length">No row is {{ which() }}.</td>
            </tr>
          }
        </tbody>
      </table>
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex: 1;
      flex-direction: column;
      min-width: 0;
    }
    .which {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 16px;
      align-items: center;
      padding: 8px 14px;
      color: var(--soft-ink);
    }
    .which button {
      padding: 3px 10px;
      border: 1px solid var(--hairline);
      border-radius: 14px;
      background: none;
      color: var(--ink);
    }
    .which [aria-checked='true'] {
      border-color: var(--thread);
      box-shadow: inset 0 0 0 1px var(--thread);
    }
    .scroll {
      flex: 1;
      overflow: auto;
    }
    th {
      padding: 9px 14px;
      white-space: nowrap;
    }
    .differs {
      background: var(--tint-4);
    }
    del {
      margin-right: 8px;
      color: var(--soft-ink);
      text-decoration-color: var(--thread);
    }
    .gone {
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RefreshRows {
  readonly plan = input.required<Refresh>();
  private readonly chosen = signal<RefreshRow['what'] | undefined>(undefined);
  protected readonly which = Object.assign(
    computed(() => this.chosen() ?? WHATS.find((what) => this.plan()[what] > 0) ?? 'changed'),
    { set: (what: RefreshRow['what']) => this.chosen.set(what) },
  );
  protected readonly counts = computed(() => WHATS.map((what) => ({ what, count: counted(this.plan()[what]) })));
  /** Places of the columns: behind the first, which tells the row, those that differ come before the others. */
  protected readonly order = computed(() => {
    const all = this.plan().columns.map((_, i) => i);
    if (this.which() !== 'changed') return all;
    const changed = this.plan().rows.filter(({ what }) => what === 'changed');
    const differs = (i: number): boolean =>
      changed.some(({ before, after }) => (before?.[i] ?? '') !== (after?.[i] ?? ''));
    return [...all.filter((i) => i === 0 || differs(i)), ...all.filter((i) => i > 0 && !differs(i))];
  });
  protected readonly rows = computed(() =>
    this.plan()
      .rows.filter(({ what }) => what === this.which())
      .map(({ what, before, after }) => ({
        what,
        cells: this.order().map((i) => cellOf(before?.[i] ?? '', after?.[i] ?? '', what)),
      })),
  );
}

function cellOf(before: string, after: string, what: RefreshRow['what']) {
  const one = (text: string): string => text.replace(/\r\n|\r|\n/g, ' ⏎ ');
  if (what === 'added') return { before: one(after), after: one(after), differs: false };
  if (what === 'gone') return { before: one(before), after: one(before), differs: false };
  return { before: one(before), after: one(after), differs: before !== after };
}
