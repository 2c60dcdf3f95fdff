import { DestroyRef, effect, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { ChangeNews, TableSummary } from '@usual-needle/contract';
import { filter, map, merge, Subject, switchMap, tap, throttleTime } from 'rxjs';
import { Api } from '../../services/api';
import { Selection } from '../grid/selection';
import { CellsGone } from '../keep/cells-gone';
import { Edits } from '../keep/edits';
import { Keeper } from '../keep/keeper';
import { Answers } from '../state/answers';
import { SheetStore } from '../state/sheet-store';
import { Live } from './live';

/** The rows are asked for anew so often at most, in milliseconds, however fast changes come. */
const ASK_MS = 200;

/** Keeps what is on show in step with the table: rows, counts and columns, as changes are told. */
@Injectable()
export class Following {
  private readonly api = inject(Api);
  private readonly answers = inject(Answers);
  private readonly edits = inject(Edits);
  private readonly keeper = inject(Keeper);
  private readonly store = inject(SheetStore);
  private readonly live = inject(Live);
  private readonly cellsGone = inject(CellsGone);
  private readonly selection = inject(Selection);
  private readonly columns = new Subject<void>();

  /** The table was deleted while it was open. */
  readonly gone = signal(false);

  constructor() {
    const { live, edits, answers } = this;
    live.news.pipe(takeUntilDestroyed()).subscribe((news) => this.take(news));
    edits.written.pipe(takeUntilDestroyed()).subscribe(({ request, done }) => {
      this.without(
        (request.removed ?? []).map(({ id }) => id),
        null,
        true,
      );
      if (request.key !== this.keeper.awaited()) return;
      this.keeper.goTo(done.added[0]);
      // The news of it may have been quicker: then what is on show knows of it already, but not that it is to be gone to.
      if ((answers.answer()?.change ?? -1) >= done.change) answers.askAgain();
    });
    // One's own edit is heard of twice, as written and as news; an answer that knows of it is not asked for again.
    const own = live.news.pipe(
      filter(({ key }) => edits.isOwn(key)),
      map(({ number }) => number),
    );
    const others = live.news.pipe(filter(({ key }) => !edits.isOwn(key)));
    const written = edits.written.pipe(map(({ done }) => done.change));
    let due = 0;
    merge(own, written, merge(others, live.lent, live.back).pipe(map(() => Infinity)))
      .pipe(
        tap((change) => (due = Math.max(due, change))),
        throttleTime(ASK_MS, undefined, { leading: true, trailing: true }),
        takeUntilDestroyed(),
      )
      .subscribe(() => {
        if ((answers.answer()?.change ?? -1) < due) answers.askAgain();
        due = 0;
      });
    live.gone.pipe(takeUntilDestroyed()).subscribe(() => this.gone.set(true));
    this.columns
      .pipe(
        switchMap(() => this.api.table(this.store.table()!.id)),
        takeUntilDestroyed(),
      )
      .subscribe({ next: (table) => this.retable(table), error: () => undefined });
    effect(() => {
      const table = this.store.table();
      if (!table) return;
      this.gone.set(false);
      if (table.now === undefined) edits.open(table.id);
    });
    effect(() => {
      const change = answers.answer()?.change;
      if (change !== undefined) edits.settled(change);
    });
    inject(DestroyRef).onDestroy(() => this.columns.complete());
  }

  /** The columns are others, or called otherwise: the box goes on with what is left of those that it names. */
  retable(table: TableSummary): void {
    this.store.retable(table);
    this.answers.askAgain();
  }

  /** Rows were removed: whatever was meant by them is known to be gone. */
  private without(ids: readonly number[], who: string | null, own: boolean): void {
    if (ids.length === 0) return;
    this.cellsGone.removed(ids, who, own);
    this.selection.removed(ids);
  }

  private take(news: ChangeNews): void {
    if (news.columns) this.columns.next();
    if (this.edits.isOwn(news.key)) return;
    this.without(news.removed ?? [], news.who, false);
    if (news.added?.length) this.answers.freshen(news.added, news.who, true);
    if (news.changed?.length) this.answers.freshen(news.changed, news.who, false);
  }
}
