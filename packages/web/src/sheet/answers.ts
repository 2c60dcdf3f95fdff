import { ApplicationRef, computed, Injectable, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import type { AnswerNotice, AnswerRow, NextMatch, SearchAnswer, SearchRequest } from '@usual-needle/contract';
import {
  catchError,
  debounce,
  EMPTY,
  exhaustMap,
  expand,
  map,
  type Observable,
  of,
  Subject,
  switchMap,
  timer,
} from 'rxjs';
import { Api } from '../services/api';
import { latest, patiently } from '../services/latest';
import { EMPTY_BOX, type Strand, strandsOf } from './box-change';
import { type BoxChange, questionOf, SheetStore, textOf } from './sheet-store';

/** Rows asked for with each answer, and at each step of scrolling. */
export const WINDOW = 40;
/** A box that searches after a pause waits this long, in milliseconds. */
const PAUSE_MS = 350;
/** An answer that takes longer shows its first rows after so many milliseconds, and then grows at this pace. */
const FIRST_MS = 40;
const GROWING_MS = 150;
/** What is typed is drawn with its rows if they come this soon, in milliseconds. */
const TOGETHER_MS = 24;
/** Between two tries while the server is away, in milliseconds. */
const AGAIN_MS = 3_000;
/** Far more than a screen is kept for scrolling back; a million rows are not. */
const KEPT_ROWS = 5_000;

interface Asked {
  readonly table: number;
  readonly request: SearchRequest;
  /** The typed text that this is about. */
  readonly text: string;
}

/** Asks the server what the box asks, and keeps the answer on show with the rows fetched of it. */
@Injectable()
export class Answers {
  private readonly api = inject(Api);
  private readonly app = inject(ApplicationRef);
  private readonly store = inject(SheetStore);
  private readonly session = crypto.randomUUID();
  private turn = 0;

  /** The answer on show, and the text it answers. */
  readonly answer = signal<SearchAnswer | undefined>(undefined);
  readonly answered = signal('');
  readonly error = signal<string | undefined>(undefined);
  /** Why the text as typed cannot be answered. */
  readonly problem = signal<AnswerNotice | undefined>(undefined);
  /**
   * What is typed, as far as it is drawn. The browser draws the field itself at once; tints and notices wait a moment for
   * the rows, so that a keystroke costs one drawing and not two.
   */
  readonly strands = signal<readonly Strand[]>(strandsOf(EMPTY_BOX));
  /** True while the rows on show answer an older text. */
  readonly behind = computed(() => this.answer() !== undefined && this.answered() !== textOf(this.strands()));
  /** Set only once an answer has been slow in coming, so that quick ones never flicker. */
  readonly slow = signal(false);

  private readonly rows = new Map<number, AnswerRow>();
  private readonly rowsVersion = signal(0);
  private readonly wanted = new Subject<number>();
  private readonly failed = new Subject<void>();
  private readonly now = new Subject<void>();
  private lastRequest: SearchRequest | undefined;

  constructor() {
    this.store.changes
      .pipe(
        switchMap((change) => (change === 'typed' ? timer(TOGETHER_MS) : of(0))),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.drawTyped());

    // Asked in the very task of the key: a turn through the signals would cost the answer a frame.
    this.store.changes
      .pipe(
        debounce((change) => this.patience(change)),
        map(() => this.asked()),
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

    toObservable(this.behind)
      .pipe(
        switchMap((behind) => (behind ? timer(150).pipe(map(() => true)) : of(false))),
        takeUntilDestroyed(),
      )
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
    this.error.set(messageOf(error));
    const { status = 0 } = error as { status?: number };
    if (status === 0 || status >= 500) this.failed.next();
  }

  /** Searches what is typed without waiting for a pause or Enter. */
  askNow(): void {
    this.now.next();
  }

  /** Asks the same again, since what it is asked of has changed. */
  askAgain(): void {
    this.store.changes.next('chosen');
  }

  /** How long a change waits for what follows it: what is chosen, not at all. */
  private patience(change: BoxChange): Observable<unknown> {
    const { searches } = this.store.box();
    if (change === 'chosen' || searches === undefined || searches === 'at each keystroke') return of(0);
    return searches === 'on Enter' ? this.now : timer(PAUSE_MS);
  }

  private asked(): Asked | undefined {
    const table = this.store.table();
    if (!table) return undefined;
    const box = this.store.box();
    const columns = this.store.layout().map(({ name }) => name);
    return {
      table: table.id,
      text: textOf(strandsOf(box)),
      request: { question: questionOf(box), columns, offset: 0, limit: WINDOW },
    };
  }

  /** The first rows soon, then the counts as they grow, until every row is searched. */
  private ask({ table, request }: Asked): Observable<SearchAnswer> {
    const turn = ++this.turn;
    const search = (patience: number): Observable<SearchAnswer> =>
      this.api.search(table, { ...request, session: this.session, turn, patience }).pipe(patiently());
    return search(FIRST_MS).pipe(
      expand(({ complete, overtaken, problem }) => (complete || overtaken || problem ? EMPTY : search(GROWING_MS))),
    );
  }

  /** The turn of this session, for what is void once more is typed. */
  turnNow(): { readonly session: string; readonly turn: number } {
    return { session: this.session, turn: this.turn };
  }

  private fetch(first: number): Observable<void> {
    const [table, request] = [this.store.table(), this.lastRequest];
    if (!table || !request) return EMPTY;
    const offset = Math.max(0, first - WINDOW / 2);
    return this.api.search(table.id, { ...request, offset, limit: WINDOW * 2 }).pipe(
      patiently(),
      map((answer) => {
        // Rows of a question that is no longer the one on show are of no use.
        if (this.lastRequest !== request || answer.overtaken) return;
        this.keep(answer);
        this.error.set(undefined);
      }),
      catchError((error: unknown) => {
        this.fail(error);
        return of(undefined);
      }),
    );
  }

  private drawTyped(): void {
    this.strands.set(this.store.strands());
  }

  private show({ request, text }: Asked, answer: SearchAnswer): void {
    // A pattern that cannot be read answers nothing: the rows stay, and the box says where it stops.
    if (answer.problem) {
      this.drawTyped();
      this.problem.set(answer.problem);
      this.error.set(undefined);
      return;
    }
    this.problem.set(undefined);
    this.drawTyped();
    // Of an answer that only grows, in the table's own order, the rows fetched before stay true.
    const grown = this.lastRequest === request && (request.question.sort ?? []).length === 0;
    this.lastRequest = request;
    if (!grown) this.rows.clear();
    this.keep(answer);
    this.answer.set(answer);
    this.answered.set(text);
    this.error.set(undefined);
  }

  private keep(answer: SearchAnswer): void {
    if (this.rows.size > KEPT_ROWS) this.rows.clear();
    answer.rows.forEach((row, i) => this.rows.set(answer.offset + i, row));
    this.rowsVersion.update((version) => version + 1);
  }

  /** The row on show at a place, if it has been fetched; reading it in a computed follows its arrival. */
  rowAt(index: number): AnswerRow | undefined {
    this.rowsVersion();
    return this.rows.get(index);
  }

  nextMatch(from: number, backwards: boolean): Observable<NextMatch> {
    const table = this.store.table();
    if (!table || !this.lastRequest) return of({ index: null });
    return this.api.next(table.id, { question: this.lastRequest.question, from, backwards });
  }

  /** Says which rows the grid shows, so that what is missing is fetched. */
  need(first: number, last: number): void {
    const shown = this.answer()?.shown ?? 0;
    for (let i = first; i <= Math.min(last, shown - 1); i++) {
      if (!this.rows.has(i)) {
        this.wanted.next(first);
        return;
      }
    }
  }
}

/** What happened, in words for a reader. */
export function messageOf(error: unknown): string {
  const { status = 0, error: body } = error as { status?: number; error?: { title?: string; detail?: string } };
  if (status === 0) return 'The server does not answer. What you typed is kept; the rows are from before.';
  if (status === 404) return 'This table is no longer there.';
  return [body?.title, body?.detail].filter(Boolean).join('. ') || 'Something went wrong on the server.';
}
