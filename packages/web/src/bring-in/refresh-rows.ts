import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import type { Refresh, RefreshClash, RefreshRow } from '@usual-needle/contract';
import { counted } from '../services/numbers';

const WHATS = ['added', 'changed', 'gone'] as const;
/** The rows that are shown: rows of one sort, cells changed on both sides, or rows that their key does not tell. */
type Which = RefreshRow['what'] | 'clashing' | 'unclear';

/** The rows that a refresh would change, one by one: cells as they were and as they will be. */
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
      @if (which() === 'clashing') {
        <table class="preview">
          <thead>
            <tr>
              <th scope="col">Row</th>
              <th scope="col">Column</th>
              <th scope="col">The last file said</th>
              <th scope="col">Ours</th>
              <th scope="col">The file’s</th>
            </tr>
          </thead>
          <tbody>
            @for (clash of plan().clashes; track clash.row + ':' + clash.column) {
              <tr>
                <td>{{ clash.key }}</td>
                <td>{{ clash.column }}</td>
                <td class="said">{{ clash.said || 'blank' }}</td>
                @for (whose of sides; track whose) {
                  <td [class.differs]="clash.taken === whose">
                    <button
                      type="button"
                      class="side"
                      [attr.aria-pressed]="clash.taken === whose"
                      (click)="taken.emit({ row: clash.row, column: clash.column, whose })"
                    >
                      {{ clash[whose] || 'blank' }}
                    </button>
                  </td>
                }
              </tr>
            }
          </tbody>
        </table>
        @if (plan().clashing > plan().clashes.length) {
          <p class="more">The first {{ plan().clashes.length }} are shown; the others follow the sentence.</p>
        }
      } @else if (which() === 'unclear') {
        <table class="preview">
          <thead>
            <tr>
              <th scope="col">Where</th>
              <th scope="col">Why</th>
              @for (column of plan().columns; track $index) {
                <th scope="col">{{ column.name }}</th>
              }
            </tr>
          </thead>
          <tbody>
            @for (row of plan().unclear.rows; track $index) {
              <tr>
                <td>{{ row.where === 'file' ? 'line ' + row.at + ' of the file' : 'here' }}</td>
                <td>{{ row.why === 'blank' ? 'its key is blank' : 'its key stands in a row before it' }}</td>
                @for (cell of row.cells; track $index) {
                  <td>{{ cell }}</td>
                }
              </tr>
            }
          </tbody>
        </table>
      } @else {
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
      }
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
    .gone,
    .said,
    .more {
      color: var(--soft-ink);
    }
    .more {
      padding: 8px 14px;
    }
    .side {
      padding: 2px 8px;
      border: 1px solid var(--hairline);
      border-radius: 6px;
      background: none;
      color: var(--ink);
      font: inherit;
      text-align: left;
    }
    .side[aria-pressed='true'] {
      border-color: var(--thread);
      font-weight: 650;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RefreshRows {
  readonly plan = input.required<Refresh>();
  /** Says whose value a clash is settled by. */
  readonly taken = output<{ readonly row: number; readonly column: string; readonly whose: RefreshClash['taken'] }>();
  protected readonly sides = ['ours', 'theirs'] as const;
  private readonly chosen = signal<Which | undefined>(undefined);
  protected readonly which = Object.assign(
    computed<Which>(() => this.chosen() ?? WHATS.find((what) => this.plan()[what] > 0) ?? 'changed'),
    { set: (what: Which) => this.chosen.set(what) },
  );
  protected readonly counts = computed(() => {
    const { clashing, unclear } = this.plan();
    const odd = unclear.file + unclear.table;
    return [
      ...WHATS.map((what) => ({ what: what as Which, count: counted(this.plan()[what]) })),
      ...(clashing > 0 ? [{ what: 'clashing' as const, count: counted(clashing) }] : []),
      ...(odd > 0 ? [{ what: 'unclear' as const, count: counted(odd) }] : []),
    ];
  });
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
