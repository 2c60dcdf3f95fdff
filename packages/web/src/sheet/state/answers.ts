import { ApplicationRef, computed, Injectable, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import {
  EMPTY_BOX,
  type AnswerNotice,
  type NextMatch,
  type SearchAnswer,
  type SearchRequest,
} from '@usual-needle/contract';
import {
  catchError,
  debounce,
  EMPTY,
  exhaustMap,
  map,
  merge,
  type Observable,
  of,
  Subject,
  switchMap,
  tap,
  timer,
} from 'rxjs';
import { questionOf, type BoxStrand, strandsOf, withoutTexts } from '../../common/question';
import { errorWords, mayPass } from '../../common/error-words';
import { onceLate } from '../../common/late';
import { Api } from '../../services/api';
import { newId } from '../../services/ids';
import { latest, patiently } from '../../services/latest';
import { type FetchedRow, FetchedRows } from './fetched-rows';
import { Lately } from './lately';
import { type Asked, growing, keyOf, patience } from './asked';
import { SheetStore, textOf } from './sheet-store';

/** Rows asked for with each answer, and at each step of scrolling. */
export const WINDOW = 40;
/** The time, in milliseconds, in which rows have to come for what is typed to be drawn with them. */
const TOGETHER_MS = 24;
/** The time between two tries while the server is away, in milliseconds. */
const AGAIN_MS = 3_000;

/** Asks the server what the box asks, and keeps the answer on show with the rows fetched of it. */
@Injectable()
export class Answers {
  private readonly api = inject(Api);
  private readonly app = inject(ApplicationRef);
  private readonly store = inject(SheetStore);
  private readonly session = newId();
  private turn = 0;

  /** The answer on show, and the text it answers. All that is shown of it is of one question. */
  readonly answer = signal<SearchAnswer | undefined>(undefined);
  readonly answered = signal('');
  /** The columns that the answer's tallies are of. */
  readonly answeredColumns = signal<readonly string[]>([]);
  private readonly answeredKey = signal('');
  readonly error = signal<string | undefined>(undefined);
  /** Why the text as typed cannot be answered. */
  readonly problem = signal<AnswerNotice | undefined>(undefined);
  /**
   * The text that is typed, as far as it is drawn. The browser draws the field itself at once; tints and notices wait a moment for
   * the rows, so that a keystroke costs one drawing and not two.
   */
  readonly strands = signal<readonly BoxStrand[]>(strandsOf(EMPTY_BOX));
  private readonly wantedKey = computed(() => keyOf(this.store.box()));
  /** True while what is on show answers an older question. */
  readonly behind = computed(() => this.answer() !== undefined && this.answeredKey() !== this.wantedKey());
  /** Does what `behind` does, where it is the text that is newer. */
  readonly textBehind = computed(() => this.behind() && this.answered() !== textOf(this.store.strands()));
  /** Set only once an answer has been slow in coming, so that quick ones never flicker. */
  readonly slow = signal(false);

  /** Rows that were edited lately, here and by others: asked after with every question. */
  readonly lately = new Lately();
  /** Rows whose places in the list are asked for with each new answer to the same question. */
  anchors: () => readonly number[] = () => [];
  /** Where those rows are now, after the same question was answered anew. */
  readonly placed = signal<ReadonlyMap<number, number | null> | undefined>(undefined);
  private readonly again = new Subject<void>();
  /** The question that could not be read, if the last one could not. */
  private unreadKey: string | undefined;
  private needed = 0;

  private readonly rows = new FetchedRows();
  private readonly wanted = new Subject<number>();
  private readonly failed = new Subject<void>();
  private readonly now = new Subject<void>();
  private lastAsked: Asked | undefined;
  private answeredAt: Date | undefined;
  /** The list is another one from here on, or may be. */
  readonly renewed = new Subject<void>();

  constructor() {
    this.store.changes
      .pipe(
        switchMap((change) => (change === 'typed' ? timer(TOGETHER_MS) : of(0))),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.strands.set(this.store.strands()));

    // Asked in the very task of the key: a turn through the signals would cost the answer a frame.
    // What is asked again does not take the place of what is typed and waits for a pause or for Enter.
    merge(
      this.store.changes.pipe(
        tap(() => this.lately.forget()),
        debounce((change) => patience(change, this.store.box().searches, this.now)),
        map(() => this.asked()),
      ),
      this.again.pipe(map(() => this.askedAgain())),
    )
      .pipe(
        latest((asked) => (asked ? this.ask(asked) : of(undefined))),
        takeUntilDestroyed(),
      )
      .subscribe(({ question, ...outcome }) => {
        if (!question) return;
        if ('error' in outcome) this.fail(outcome.error);
        else if (outcome.answer && !outcome.answer.overtaken) this.show(question, outcome.answer);
        // Drawn in this task too, so that the rows are in the very next frame.
        this.app.tick();
      });

    onceLate(toObservable(this.behind))
      .pipe(takeUntilDestroyed())
      .subscribe((slow) => this.slow.set(slow));

    // One fetch at a time: what is still missing when it is there is asked for then, wherever the view has gone meanwhile.
    this.wanted
      .pipe(
        exhaustMap((first) => this.fetch(first)),
        takeUntilDestroyed(),
      )
      // Only once the fetch has ended can the next one be asked for.
      .subscribe(() => queueMicrotask(() => this.app.tick()));

    // After a failure it goes on trying, quietly, until the server is back.
    this.failed
      .pipe(
        switchMap(() => timer(AGAIN_MS)),
        takeUntilDestroyed(),
      )
      .subscribe(() => {
        if (this.error() !== undefined) this.askAgain();
      });
  }

  private fail(error: unknown): void {
    this.error.set(errorWords(error, this.answeredAt));
    if (mayPass(error)) this.failed.next();
  }

  /** Searches what is typed without waiting for a pause or Enter. */
  askNow(): void {
    this.now.next();
  }

  /** Asks the same again, since what it is asked of has changed. What stays in its place goes on staying there. */
  askAgain(): void {
    this.again.next();
  }

  /** Lets the rows that stay go to their own places. */
  sortAgain(): void {
    this.lately.forget();
    this.askAgain();
  }

  /** A row was edited at a place of the list: there it stays. */
  stay(id: number, index: number): void {
    this.lately.stay(id, index, (this.store.box().edited ?? 'moves') === 'moves');
  }

  /** Others changed rows. */
  freshen(ids: readonly number[], who: string | null, added: boolean): void {
    this.lately.freshen(ids, who, (id) => added || this.rows.byId(id) === undefined);
  }

  private asked(box = this.store.box()): Asked | undefined {
    const table = this.store.table();
    if (!table) return undefined;
    const key = keyOf(box);
    const columns = this.store.layout().map(({ name }) => name);
    // The same again is asked for where its reader is; anything else from its beginning.
    const same = key === this.answeredKey();
    const offset = same ? Math.max(0, this.needed - WINDOW / 2) : 0;
    const request: SearchRequest = {
      question: questionOf(box),
      columns,
      offset,
      limit: offset > 0 ? WINDOW * 2 : WINDOW,
      ...((!this.store.readersView() || this.store.keepable()) && { raw: true }),
      ...this.lately.asked(),
      ...(same && { places: [...this.anchors()] }),
    };
    return { table: table.id, columns, key, text: textOf(strandsOf(box)), request };
  }

  /**
   * The same question as the one on show, where a newer text waits to be asked or cannot be read; if nothing is on show yet, that
   * of nothing typed in place of a text that cannot be read; else what the box asks now.
   */
  private askedAgain(): Asked | undefined {
    const { searches = 'at each keystroke' } = this.store.box();
    const last = this.lastAsked;
    const unread = this.unreadKey === this.wantedKey();
    if (unread && !last) {
      const asked = this.asked(withoutTexts(this.store.box()));
      return asked && { ...asked, instead: true };
    }
    const waits = searches !== 'at each keystroke' && this.textBehind();
    if (!last || !(unread || waits)) return this.asked();
    const { stays, fresh } = this.lately.asked();
    const request = { ...last.request, stays, fresh, places: [...this.anchors()] };
    return { ...last, request, instead: unread || undefined };
  }

  private ask({ table, request }: Asked): Observable<SearchAnswer> {
    const turn = ++this.turn;
    return growing((patience) =>
      this.api.search(table, { ...request, session: this.session, turn, patience }).pipe(patiently()),
    );
  }

  /** Rows of the answer on show, with their stored texts. */
  fetchRows(
    offset: number,
    limit: number,
    columns: readonly string[] = this.store.layout().map(({ name }) => name),
  ): Observable<SearchAnswer> {
    const asked = this.lastAsked;
    if (!asked) return EMPTY;
    return this.api.search(asked.table, { ...asked.request, columns: [...columns], offset, limit }).pipe(patiently());
  }

  private fetch(first: number): Observable<void> {
    const asked = this.lastAsked;
    if (!asked) return EMPTY;
    const offset = Math.max(0, first - WINDOW / 2);
    return this.api.search(asked.table, { ...asked.request, offset, limit: WINDOW * 2 }).pipe(
      patiently(),
      map((answer) => {
        // Rows of a question that is no longer the one on show are of no use.
        if (this.lastAsked !== asked || answer.overtaken) return;
        this.rows.keep(answer, asked.columns);
        this.error.set(undefined);
      }),
      catchError((error: unknown) => {
        this.fail(error);
        return of(undefined);
      }),
    );
  }

  private show(asked: Asked, answer: SearchAnswer): void {
    this.error.set(undefined);
    this.strands.set(this.store.strands());
    // What was asked in place of a text that cannot be read says nothing of it.
    if (!asked.instead) {
      this.problem.set(answer.problem ?? undefined);
      this.unreadKey = answer.problem ? asked.key : undefined;
    }
    // A pattern that cannot be read answers nothing: the rows stay, and the box says where it stops.
    if (answer.problem) {
      if (!this.answer()) this.askAgain();
      return;
    }
    // Of an answer that only grows, in the table's own order, the rows fetched before stay true.
    const grown = this.lastAsked === asked && (asked.request.question.sort ?? []).length === 0;
    this.lastAsked = asked;
    this.answeredAt = new Date();
    if (!grown) {
      this.rows.clear();
      this.renewed.next();
    }
    const { places } = answer;
    if (places && !grown) this.placed.set(new Map((asked.request.places ?? []).map((id, i) => [id, places[i]])));
    this.rows.keep(answer, asked.columns);
    this.answer.set(answer);
    this.answered.set(asked.text);
    this.answeredKey.set(asked.key);
    this.answeredColumns.set(asked.columns);
  }

  /** The row on show at a place, if it has been fetched; reading it in a computed follows its arrival. */
  rowAt(index: number): FetchedRow | undefined {
    return this.rows.at(index);
  }

  /** A row by its id, if it has been fetched. */
  rowOf(id: number): FetchedRow | undefined {
    return this.rows.byId(id);
  }

  /** Finds where a row is in the list, if it has been fetched. */
  indexOf(id: number): number | undefined {
    return this.rows.indexOf(id);
  }

  /** Where a row is in the list on show, whether it has been fetched or not; null if it is not in it. */
  placeOf(id: number): Observable<number | null> {
    const asked = this.lastAsked;
    if (!asked) return of(null);
    return this.api
      .search(asked.table, { ...asked.request, offset: 0, limit: 0, places: [id] })
      .pipe(map(({ places }) => places?.[0] ?? null));
  }

  /** The next match of the rows on show. */
  nextMatch(from: number, backwards: boolean): Observable<NextMatch> {
    const asked = this.lastAsked;
    if (!asked) return of({ index: null });
    const { question, stays } = asked.request;
    return this.api.next(asked.table, { question, from, backwards, ...(stays && { stays }) });
  }

  /** The question that the rows on show answer; undefined before the first answer. */
  questionOnShow(): SearchRequest['question'] | undefined {
    return this.lastAsked?.request.question;
  }

  /** The turn of this session, for what is void once more is typed. */
  turnNow(): { readonly session: string; readonly turn: number } {
    return { session: this.session, turn: this.turn };
  }

  /** Says which rows the grid shows, so that what is missing is fetched. */
  need(first: number, last: number): void {
    this.needed = first;
    const shown = this.answer()?.shown ?? 0;
    for (let i = first; i <= Math.min(last, shown - 1); i++) {
      if (!this.rows.has(i)) {
        this.wanted.next(first);
        return;
      }
    }
  }
}
