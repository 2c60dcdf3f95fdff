import { ApplicationRef, computed, inject, Injectable, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import {
  onTable,
  type Box,
  type BoxSummary,
  type SearchAnswer,
  type ShelfContent,
  type TableSummary,
  type WireQuestion,
} from '@usual-needle/contract';
import {
  catchError,
  EMPTY,
  from,
  map,
  mergeMap,
  type Observable,
  of,
  race,
  shareReplay,
  Subject,
  switchMap,
  tap,
  throttle,
  timer,
} from 'rxjs';
import { errorWords } from '../common/error-words';
import { onceLate } from '../common/late';
import { newBox, plain, questionOf, withFirstText } from '../common/question';
import { Api } from '../services/api';
import { newId } from '../services/ids';

/** Answers are drawn together once all are there, and else those that came within so many milliseconds: each drawing costs a frame. */
const TOGETHER_MS = 70;
/** Typing rests for so long, in milliseconds, before what is out of sight is drawn: it would hold up the next key. */
const PAUSE_MS = 250;
/** Questions under way at once: a server lets an asker have some 200 waiting. */
const ASKED_AT_ONCE = 100;
/** Best rows of a table that are shown. */
const BEST = 3;

/** A question, of those that a text becomes: a box's, or that of a new box on the table. */
export interface BandQuestion {
  readonly key: string;
  readonly table: TableSummary;
  /** None for a new box. */
  readonly box: BoxSummary | undefined;
  /** Columns that its best rows are told by; empty where none are. */
  readonly columns: readonly string[];
}

export type BandAnswer =
  { readonly answer: SearchAnswer; readonly text: string } | { readonly error: string; readonly text: string };

const boxes = new WeakMap<BoxSummary | TableSummary, Box>();

/** The box that one of them asks by, with its columns by their present names: a new one where there is none. The same at each key. */
function boxOf({ table, box }: Pick<BandQuestion, 'table' | 'box'>): Box {
  const known = boxes.get(box ?? table);
  if (known) return known;
  const made = onTable({ ...newBox(table.columns), ...box?.box }, table).box;
  boxes.set(box ?? table, made);
  return made;
}

/** Every question that a text becomes: each box's, and that of a new box on each table, which counts the table's rows. */
export function questionsOf({ tables, boxes }: ShelfContent): BandQuestion[] {
  return tables.flatMap((table) => {
    const own = boxes.filter(({ tableId }) => tableId === table.id);
    const asked = (key: string, box: BoxSummary | undefined, told: boolean): BandQuestion => {
      const named = table.columns.slice(0, 1).map(({ name }) => name);
      const { everyColumn, threaded = [] } = boxOf({ table, box });
      const looked = everyColumn ? table.columns.map(({ name }) => name) : threaded;
      return { key, table, box, columns: told ? [...new Set([...named, ...looked])] : [] };
    };
    return [
      ...own.map((box, i) => asked(`box ${box.id}`, box, i === 0)),
      asked(`table ${table.id}`, undefined, own.length === 0),
    ];
  });
}

/** The question of a box with a text in its first line; its best rows are those that match, whatever it does with them. */
export function questionWith(asked: Pick<BandQuestion, 'table' | 'box'>, text: string): WireQuestion {
  const question = questionOf(withFirstText(boxOf(asked), text));
  return plain({ ...question, effect: 'show only matches', nothingTyped: undefined, flip: undefined, sort: undefined });
}

/**
 * Rows of a table that are found: as a new box would find them, or as the box of it that finds most does, since a box may look
 * where a new one does not. So nothing is told of a table that its boxes contradict.
 * @returns undefined while a new box's answer is not there
 */
export function rowsFound(
  table: number,
  asked: readonly BandQuestion[],
  told: ReadonlyMap<string, BandAnswer>,
): number | undefined {
  const counts = asked
    .filter((one) => one.table.id === table)
    .map(({ key, box }) => ({ told: told.get(key), box }))
    .flatMap(({ told: one, box }) => (one && 'answer' in one ? [{ box, matched: one.answer.matched }] : []));
  return counts.some(({ box }) => box === undefined) ? Math.max(...counts.map(({ matched }) => matched)) : undefined;
}

/** The text that is typed on the shelf, asked of every box and table at once; each answers by itself, as soon as it can. */
@Injectable()
export class Everywhere {
  private readonly api = inject(Api);
  private readonly app = inject(ApplicationRef);
  private readonly session = newId();
  private turn = 0;
  private readonly arrived = new Map<string, BandAnswer>();
  private readonly arrives = new Subject<void>();
  /** Every one that was asked has answered. */
  private readonly allThere = new Subject<void>();
  private readonly fetched = new Map<number, Observable<BoxSummary>>();
  private readonly asks = new Subject<{ readonly text: string; readonly asked: readonly BandQuestion[] }>();
  /** The text that was asked last; empty if nothing is. */
  readonly text = signal('');
  /** The answers of each of them to the text that is asked now; to an older one until then, so that nothing jumps. */
  readonly told = signal<ReadonlyMap<string, BandAnswer>>(new Map());
  /** The answers told once typing rests, for what is out of sight. */
  readonly toldLater = signal<ReadonlyMap<string, BandAnswer>>(new Map());
  private readonly askedNow = signal<readonly BandQuestion[]>([]);
  /** True while not all is answered, and has not been for a while. */
  readonly late = signal(false);
  private readonly awaiting = new Subject<boolean>();
  /** Answers have been drawn, and no key came since. */
  private readonly rests = new Subject<boolean>();

  /** The sum of all answers; undefined with nothing typed. */
  readonly whole = computed(() => {
    if (this.text() === '') return undefined;
    const told = this.askedNow().map((asked) => ({ asked, told: this.told().get(asked.key) }));
    const answers = told.flatMap(({ asked, told: one }) =>
      one && 'answer' in one ? [{ asked, answer: one.answer }] : [],
    );
    const ids = [...new Set(this.askedNow().map(({ table }) => table.id))];
    const found = ids.map((id) => rowsFound(id, this.askedNow(), this.told()) ?? 0);
    return {
      /** Something is told at all, if only of an older text; of this one; and by every one that is asked. */
      told: answers.length > 0,
      begun: told.some(({ told: one }) => one?.text === this.text()),
      answered: told.every(({ told: one }) => one?.text === this.text()),
      rows: found.reduce((sum, rows) => sum + rows, 0),
      tables: found.filter((rows) => rows > 0).length,
      complete: told.every(({ told: one }) => one?.text === this.text() && 'answer' in one && one.answer.complete),
      failed: told.filter(({ told: one }) => one && 'error' in one).length,
      milliseconds: answers.reduce((sum, { answer }) => sum + answer.milliseconds, 0),
      problem: answers.find(({ answer }) => answer.problem)?.answer.problem?.message ?? '',
    };
  });

  constructor() {
    this.arrives
      .pipe(
        throttle(() => race(timer(TOGETHER_MS), this.allThere), { leading: false, trailing: true }),
        takeUntilDestroyed(),
      )
      .subscribe(() => {
        this.told.update((before) => new Map([...before, ...this.arrived]));
        this.arrived.clear();
        if (untracked(this.whole)?.answered) this.awaiting.next(false);
        // Drawn in this task, so that they are in the very next frame; what is out of sight, after it.
        this.app.tick();
        this.rests.next(true);
      });
    this.rests
      .pipe(
        switchMap((rests) => (rests ? timer(PAUSE_MS) : EMPTY)),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.toldLater.set(this.told()));
    onceLate(this.awaiting)
      .pipe(takeUntilDestroyed())
      .subscribe((late) => this.late.set(late));
    this.asks
      .pipe(
        // A newer text gives up what was asked before.
        switchMap(({ text, asked }) => {
          if (text === '') return EMPTY;
          const turn = ++this.turn;
          const answers = from(asked).pipe(mergeMap((one) => this.ask(one, text, turn), ASKED_AT_ONCE));
          return this.api.together(answers).pipe(tap({ complete: () => this.allThere.next() }));
        }),
        takeUntilDestroyed(),
      )
      .subscribe();
  }

  /** Asks a text of all; the same again is asked once. */
  search(typed: string, asked: readonly BandQuestion[]): void {
    const text = typed.trim() === '' ? '' : typed;
    if (text === untracked(this.text) && asked === untracked(this.askedNow)) return;
    this.text.set(text);
    this.askedNow.set(asked);
    this.arrived.clear();
    this.rests.next(false);
    this.awaiting.next(text !== '');
    if (text === '') {
      this.told.set(new Map());
      this.toldLater.set(new Map());
    }
    this.asks.next({ text, asked });
  }

  /** A box that is too long for the shelf is fetched when it is first asked. */
  private wholeBox({ box }: BandQuestion): Observable<BoxSummary | undefined> {
    if (!box || box.whole) return of(box);
    const kept =
      this.fetched.get(box.id) ??
      this.api.box(box.id).pipe(
        map((stored) => ({ ...box, box: stored.box })),
        shareReplay(1),
      );
    this.fetched.set(box.id, kept);
    return kept;
  }

  private ask(asked: BandQuestion, text: string, turn: number): Observable<unknown> {
    const { key, table, columns } = asked;
    const put = (told: BandAnswer): void => {
      this.arrived.set(key, told);
      this.arrives.next();
    };
    const request = {
      columns: [...columns],
      limit: columns.length > 0 ? BEST : 0,
      brief: true,
      session: `${this.session} ${key}`,
      turn,
    };
    return this.wholeBox(asked).pipe(
      switchMap((box) => this.api.search(table.id, { ...request, question: questionWith({ ...asked, box }, text) })),
      switchMap((answer) => (answer.overtaken ? EMPTY : of(answer))),
      tap((answer) => put({ answer, text })),
      catchError((error: unknown) => {
        put({ error: errorWords(error), text });
        return EMPTY;
      }),
    );
  }
}
