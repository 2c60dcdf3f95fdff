import { ChangeDetectionStrategy, Component, computed, inject, output, signal, viewChild } from '@angular/core';
import { BOX_DEFAULTS, type Column } from '@usual-needle/contract';
import { catchError, forkJoin, map, type Observable, of, type Subscription, switchMap } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { questionOf, strandsOf, withoutTexts } from '../../common/question';
import { Pop } from '../../look/pop';
import { isWriting } from '../../look/take-focus';
import { Api } from '../../services/api';
import { rowsCounted } from '../../services/numbers';
import { SheetStore } from '../state/sheet-store';
import { type CribGroup, type CribLine, cribGroups } from './crib-lines';
import { cribValues, type ShownRow } from './crib-values';

/** Rows among which values for the examples are looked for. */
const ROWS = 80;

interface CountedLine extends CribLine {
  readonly rows: string;
}
interface CountedGroup {
  readonly name: string;
  readonly lines: readonly CountedLine[];
}

/** The crib: what can be typed into a strand, by examples from this table's own values, each with how many rows it finds. */
@Component({
  selector: 'un-crib-panel',
  imports: [Pop],
  template: `
    <un-pop #pop label="What can be typed" (closed)="asking?.unsubscribe()">
      <div class="crib">
        <p class="head">What can be typed, tried on this table. A click puts it into the box.</p>
        @for (group of groups(); track group.name) {
          <h2>{{ group.name }}</h2>
          @for (line of group.lines; track line.text) {
            <button type="button" class="item" (click)="take(line)">
              <code>{{ line.text }}</code> <span class="says">{{ line.says }}</span>
              <span class="rows">{{ line.rows }}</span>
            </button>
          }
        } @empty {
          <p class="head" role="status">{{ failed() || 'Looking for examples in the rows …' }}</p>
        }
      </div>
    </un-pop>
  `,
  styles: `
    .crib {
      display: grid;
      grid-template-columns: max-content 1fr max-content;
      gap: 0 18px;
      max-width: min(640px, calc(100vw - 32px));
      max-height: min(560px, calc(100vh - 160px));
      overflow: auto;
      padding: 6px 0;
    }
    .head,
    h2 {
      grid-column: 1 / -1;
      margin: 0;
      padding: 4px 14px;
      color: var(--soft-ink);
      font-size: 12.5px;
      font-weight: 400;
    }
    h2 {
      margin: 4px 0 0;
      color: var(--ink);
      font-weight: 650;
    }
    .item {
      display: grid;
      grid-column: 1 / -1;
      grid-template-columns: subgrid;
      align-items: baseline;
      padding: 2px 14px;
      border: 0;
      background: none;
      text-align: left;
    }
    .item:hover,
    .item:focus-visible {
      background: var(--header);
    }
    code {
      max-width: 250px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      color: var(--thread);
      font-family: inherit;
      font-weight: 600;
    }
    .says,
    .rows {
      color: var(--soft-ink);
      font-size: 13px;
    }
    .rows {
      text-align: right;
      font-variant-numeric: tabular-nums;
    }
    @media (max-width: 600px) {
      .crib {
        grid-template-columns: 1fr max-content;
      }
      .says {
        grid-row: 2;
        grid-column: 1 / -1;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CribPanel {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  private readonly pop = viewChild.required(Pop);
  /** A line was put into a strand. */
  readonly taken = output<number>();

  protected readonly groups = signal<readonly CountedGroup[]>([]);
  protected readonly failed = signal('');
  protected asking: Subscription | undefined;
  private readonly strand = signal(0);
  private readonly reading = computed(() => this.store.strands()[this.strand()]?.reading ?? BOX_DEFAULTS.reading);

  open(strand: number, event: Event): void {
    this.strand.set(strand);
    this.groups.set([]);
    this.failed.set('');
    this.asking?.unsubscribe();
    const table = this.store.table();
    if (!this.pop().toggle(event) || !table) return;
    this.asking = this.found(table.id, this.columns()).subscribe({
      next: (groups) => {
        this.groups.set(groups);
        this.failed.set(groups.length > 0 ? '' : 'There are no rows yet to take examples from.');
        // Nothing but the person moves the focus while one types.
        if (!isWriting()) this.pop().focusIn();
      },
      error: (error: unknown) => this.failed.set(errorWords(error)),
    });
  }

  /** Columns that examples may be of: for a reader, those on show. */
  private columns(): readonly Column[] {
    const all = (this.store.table()?.columns ?? []).filter(({ removed }) => !removed);
    if (!this.store.readersView()) return all;
    const onShow = new Set(this.store.layout().map(({ name }) => name));
    return all.filter(({ name }) => onShow.has(name));
  }

  private found(table: number, columns: readonly Column[]): Observable<readonly CountedGroup[]> {
    const names = columns.map(({ name }) => name);
    const question = { ...questionOf(withoutTexts(this.store.box())), sort: undefined, pickers: undefined };
    const every = { ...question, effect: undefined, nothingTyped: undefined };
    return this.api.search(table, { question: every, columns: names, offset: 0, limit: ROWS }).pipe(
      switchMap(({ rows }) => {
        const shown = rows.map(({ cells }): ShownRow => new Map(names.map((name, i) => [name, cells[i]])));
        const threaded = new Set(this.store.threaded());
        const groups = cribGroups(
          cribValues(shown, columns, ({ name }) => threaded.has(name)),
          this.reading(),
        );
        return groups.length > 0 ? this.api.together(this.counted(table, groups, every)) : of([]);
      }),
    );
  }

  /** Each line with how many rows it finds by itself; those that find none are left out. */
  private counted(
    table: number,
    groups: readonly CribGroup[],
    question: ReturnType<typeof questionOf>,
  ): Observable<readonly CountedGroup[]> {
    const countedLine = (line: CribLine): Observable<CountedLine[]> => {
      const strands = [{ verb: 'find' as const, text: line.text, reading: this.reading() }];
      return this.api.search(table, { question: { ...question, strands }, limit: 0, brief: true }).pipe(
        map(({ matched }) => (matched > 0 ? [{ ...line, rows: rowsCounted(matched) }] : [])),
        catchError(() => of([])),
      );
    };
    const countedGroup = ({ name, lines }: CribGroup): Observable<CountedGroup> =>
      forkJoin(lines.map(countedLine)).pipe(map((found) => ({ name, lines: found.flat() })));
    return forkJoin(groups.map(countedGroup)).pipe(map((all) => all.filter(({ lines }) => lines.length > 0)));
  }

  /** Puts an example after what is typed already, which stays. */
  protected take({ text }: CribLine): void {
    const at = this.strand();
    const typed = strandsOf(this.store.box())[at]?.text ?? '';
    const space = typed === '' || /\s$/.test(typed) ? '' : ' ';
    this.store.type(at, typed + space + text, true);
    this.pop().hide();
    this.taken.emit(at);
  }
}
