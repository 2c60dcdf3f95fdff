import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, output, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { type Change, type RowChange, type TableSummary } from '@usual-needle/contract';
import { catchError, debounceTime, map, merge, of, Subject, switchMap } from 'rxjs';
import { ago } from '../../common/ago';
import { errorWords } from '../../common/error-words';
import { takeFocus } from '../../look/take-focus';
import { Api } from '../../services/api';
import { Person } from '../../services/person';
import { Remarks } from '../../services/remarks';
import { newBox } from '../../common/question';
import { Live } from '../live/live';
import { writeAddress } from '../state/address';
import { SheetStore } from '../state/sheet-store';
import { cellWords, changeWords, type SaidCell } from './change-words';
import { Edits } from './edits';

/** Changes that are fetched at a time. */
const AT_ONCE = 30;
/** Rows of a change that are shown. */
const ROWS_SHOWN = 50;

interface Entry {
  readonly change: Change;
  readonly pieces: readonly SaidCell[];
  readonly cell: { readonly before: string; readonly after: string } | undefined;
  readonly canUndo: boolean;
  readonly canShow: boolean;
}

/** The log of the table in sentences, last first: each can be shown, and undone. */
@Component({
  selector: 'un-history-drawer',
  imports: [RouterLink],
  templateUrl: './history-drawer.html',
  host: { class: 'beside-rows', role: 'complementary', 'aria-label': 'History', tabindex: '-1' },
  styleUrl: './history-drawer.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HistoryDrawer {
  private readonly api = inject(Api);
  private readonly edits = inject(Edits);
  private readonly person = inject(Person);
  private readonly remarks = inject(Remarks);
  protected readonly store = inject(SheetStore);
  readonly closed = output<void>();

  private readonly changes = signal<readonly Change[]>([]);
  protected readonly older = signal(false);
  protected readonly problem = signal('');
  protected readonly shown = signal<number | undefined>(undefined);
  private readonly whole = signal<Change | undefined>(undefined);
  private readonly again = new Subject<void>();

  protected readonly entries = computed<readonly Entry[]>(() => {
    const names = storedNames(this.store.table());
    const undone = new Set(this.changes().flatMap(({ undoes }) => undoes ?? []));
    return this.changes().map((change) => ({
      change,
      pieces: changeWords(
        change,
        this.edits.isOwn(change.key) || (change.who !== null && change.who === this.person.name()),
      ),
      cell: cellWords(change, names.length),
      canShow: change.rows > 0 && change.kind !== 'brought in',
      canUndo: change.kind !== 'brought in' && !undone.has(change.number) && !this.store.readersView(),
    }));
  });

  /** The box's question now, for an address without it. */
  protected readonly asked = computed(() => {
    const bare = newBox(this.store.table()?.columns ?? []);
    return Object.fromEntries(new URLSearchParams(writeAddress(this.store.box(), bare)));
  });

  protected readonly rows = computed(() => {
    const change = this.whole();
    const names = storedNames(this.store.table());
    return (change?.rowChanges ?? []).slice(0, ROWS_SHOWN).map((row) => {
      const { id, before, after } = row;
      return {
        id,
        called: ((after ?? before)?.[0] ?? '').trim() || `row ${id}`,
        what: before === null ? 'added' : after === null ? 'removed' : '',
        cells: cellsOf(row, names),
      };
    });
  });
  protected readonly rest = computed(() => Math.max(0, (this.whole()?.rows ?? 0) - this.rows().length));

  constructor() {
    takeFocus(inject<ElementRef<HTMLElement>>(ElementRef));
    const live = inject(Live);
    const table = toObservable(computed(() => this.store.table()?.id));
    merge(table, live.news, this.again)
      .pipe(
        debounceTime(50),
        switchMap(() => this.fetch()),
        takeUntilDestroyed(),
      )
      .subscribe((found) => {
        if (!found) return;
        // What was fetched before and is older stays.
        const last = found.at(-1)?.number ?? 0;
        this.changes.update((before) => [...found, ...before.filter(({ number }) => number < last)]);
        this.older.set((this.changes().at(-1)?.number ?? 1) > 1);
      });
  }

  private fetch(before?: number) {
    const table = this.store.table();
    if (!table) return of(undefined);
    return this.api.history(table.id, AT_ONCE, before).pipe(
      map(({ changes }) => {
        this.problem.set('');
        return changes;
      }),
      catchError((error: unknown) => {
        this.problem.set(errorWords(error));
        return of(undefined);
      }),
    );
  }

  protected more(): void {
    this.fetch(this.changes().at(-1)?.number).subscribe((found) => {
      if (!found) return;
      this.changes.update((before) => [...before, ...found]);
      this.older.set((this.changes().at(-1)?.number ?? 1) > 1);
    });
  }

  protected when(at: string): string {
    return ago(at);
  }

  protected show({ number }: Change): void {
    const table = this.store.table();
    if (this.shown() === number || !table) {
      this.shown.set(undefined);
      return;
    }
    this.shown.set(number);
    this.whole.set(undefined);
    this.api.change(table.id, number).subscribe({
      next: (change) => {
        if (this.shown() === number) this.whole.set(change);
      },
      error: (error: unknown) => {
        this.shown.set(undefined);
        this.remarks.say(errorWords(error));
      },
    });
  }

  protected undo({ number }: Change): void {
    void this.edits.undoChange(number, () => {
      this.remarks.say(`Change ${number} is undone.`);
      this.again.next();
    });
  }
}

/** Names of the columns that the cells of the log are of. */
export function storedNames(table: TableSummary | undefined): readonly string[] {
  return (table?.stored ?? table?.columns ?? []).map(({ name }) => name);
}

/** The cells that differ, before and after. */
export function cellsOf(
  { before, after }: Pick<RowChange, 'before' | 'after'>,
  names: readonly string[],
): { readonly column: string; readonly before: string; readonly after: string }[] {
  if (before === null || after === null) return [];
  return names.flatMap((column, i) => {
    const [was, is] = [before[i] ?? '', after[i] ?? ''];
    return was === is ? [] : [{ column, before: was || 'blank', after: is || 'blank' }];
  });
}
