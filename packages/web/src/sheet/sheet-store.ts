import { computed, Injectable, inject, signal, type Signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import type {
  AnswerNotice, AnswerRow, Box, Column, NextMatch, SearchAnswer, SearchRequest, TableSummary, WireQuestion,
} from '@usual-needle/contract'; // prettier-ignore
import { auditTime, type Observable, Subject, switchMap, of, timer, map } from 'rxjs';
import { Api } from '../services/api';
import { type Picker, type Strand, strandsOf } from './box-change';
import { latest, patiently } from '../services/latest';

/** Rows asked for with each answer, and at each step of scrolling. */
export const WINDOW = 40;

/** A column as it stands in the grid. */
export interface GridColumn {
  readonly name: string;
  readonly kind: Column['kind'];
  readonly width: number;
  readonly threaded: boolean;
  /** Rows of the answer that hit here. */
  readonly hits: number;
  /** Arrow after the name, with its level if there are several. */
  readonly sorted: string;
  readonly ariaSort: 'ascending' | 'descending' | null;
}

interface Asked {
  readonly table: TableSummary;
  readonly request: SearchRequest;
  /** The typed text that this is about. */
  readonly text: string;
}

/** A width that fits most cells of a column whose box does not give one, in pixels. */
export function usualWidth(column: Column): number {
  if (column.kind === 'date' || column.kind === 'number') return 120;
  if (column.kind === 'choice' || column.kind === 'yes/no') return 150;
  return /descr|note|says|text|comment/i.test(column.name) ? 300 : 160;
}

/** State of one sheet: a box over a table, what is typed, and the answer on show. */
@Injectable()
export class SheetStore {
  private readonly api = inject(Api);
  private readonly session = crypto.randomUUID();
  private turn = 0;

  readonly table = signal<TableSummary | undefined>(undefined);
  readonly box = signal<Box>({ format: 'usual-needle box', version: 1 });
  /** The box as it is kept: what the address is measured against. */
  readonly kept = signal<Box>({ format: 'usual-needle box', version: 1 });
  readonly strands = computed(() => strandsOf(this.box()));
  /** All that is typed, for telling one answer from another. */
  readonly text = computed(() => this.strands().map(({ text }) => text).join('\n')); // prettier-ignore
  readonly threaded = computed(() => this.box().threaded ?? []);

  /** The answer on show, and the text it answers. */
  readonly answer = signal<SearchAnswer | undefined>(undefined);
  readonly answered = signal('');
  readonly error = signal<string | undefined>(undefined);
  /** Why the text as typed cannot be answered. */
  readonly problem = signal<AnswerNotice | undefined>(undefined);
  /** True while the rows on show answer an older text. */
  readonly behind = computed(() => this.answer() !== undefined && this.answered() !== this.text());
  /** Set only once an answer has been slow in coming, so that quick ones never flicker. */
  readonly slow = signal(false);

  private readonly rows = new Map<number, AnswerRow>();
  private readonly rowsVersion = signal(0);
  private readonly wanted = new Subject<number>();
  private lastRequest: SearchRequest | undefined;

  readonly columns: Signal<readonly GridColumn[]> = computed(() => {
    const table = this.table();
    if (!table) return [];
    const threaded = new Set(this.threaded());
    const sort = this.box().sort ?? [];
    const tallies = this.answer()?.columnTallies;
    const named: readonly { name: string; width?: number }[] =
      this.box().columns ?? table.columns.map(({ name }) => ({ name }));
    return named.flatMap(({ name, width }, i) => {
      const column = table.columns.find((candidate) => candidate.name === name);
      if (!column) return [];
      const hits = tallies?.[i] ?? 0;
      const level = sort.findIndex((one) => one.column === name);
      const up = sort[level]?.direction === 'up';
      const sorted = level < 0 ? '' : ` ${up ? '↑' : '↓'}${sort.length > 1 ? level + 1 : ''}`;
      const ariaSort = level < 0 ? null : up ? 'ascending' : 'descending';
      return [
        {
          name,
          kind: column.kind,
          width: width ?? usualWidth(column),
          threaded: threaded.has(name),
          hits,
          sorted,
          ariaSort,
        },
      ];
    });
  });

  private readonly asked = computed<Asked | undefined>(() => {
    const table = this.table();
    if (!table) return undefined;
    const columns = this.box().columns?.map(({ name }) => name);
    const question = questionOf(this.box());
    return { table, text: this.text(), request: { question, columns, offset: 0, limit: WINDOW } };
  });

  constructor() {
    toObservable(this.asked)
      .pipe(
        latest((asked) => (asked ? this.ask(asked.table, asked.request) : of(undefined))),
        takeUntilDestroyed(),
      )
      .subscribe((outcome) => {
        if (!outcome.question) return;
        if ('error' in outcome) this.error.set(messageOf(outcome.error));
        else if (outcome.answer && !outcome.answer.overtaken) this.show(outcome.question, outcome.answer);
      });

    toObservable(this.behind)
      .pipe(
        switchMap((behind) => (behind ? timer(150).pipe(map(() => true)) : of(false))),
        takeUntilDestroyed(),
      )
      .subscribe((slow) => this.slow.set(slow));

    this.wanted
      .pipe(
        auditTime(16),
        latest((first) => this.fetch(first)),
        takeUntilDestroyed(),
      )
      .subscribe((outcome) => {
        if ('error' in outcome) this.error.set(messageOf(outcome.error));
        else if (outcome.answer && !outcome.answer.overtaken) {
          this.keep(outcome.answer);
          this.error.set(undefined);
        }
      });
  }

  private ask(table: TableSummary, request: SearchRequest) {
    return this.api.search(table.id, { ...request, session: this.session, turn: ++this.turn }).pipe(patiently());
  }

  private fetch(first: number) {
    const table = this.table();
    if (!table || !this.lastRequest) return of(undefined);
    const offset = Math.max(0, first - WINDOW / 2);
    return this.api.search(table.id, { ...this.lastRequest, offset, limit: WINDOW * 2 }).pipe(patiently());
  }

  private show({ request, text }: Asked, answer: SearchAnswer): void {
    // A pattern that cannot be read answers nothing: the rows stay, and the box says where it stops.
    if (answer.problem) {
      this.problem.set(answer.problem);
      this.error.set(undefined);
      return;
    }
    this.problem.set(undefined);
    this.lastRequest = request;
    this.rows.clear();
    this.keep(answer);
    this.answer.set(answer);
    this.answered.set(text);
    this.error.set(undefined);
  }

  private keep(answer: SearchAnswer): void {
    // Far more than a screen is kept for scrolling back; a million rows are not.
    if (this.rows.size > 5_000) this.rows.clear();
    answer.rows.forEach((row, i) => this.rows.set(answer.offset + i, row));
    this.rowsVersion.update((version) => version + 1);
  }

  /** The row on show at a place, if it has been fetched; reading it in a computed follows its arrival. */
  rowAt(index: number): AnswerRow | undefined {
    this.rowsVersion();
    return this.rows.get(index);
  }

  nextMatch(from: number, backwards: boolean): Observable<NextMatch> {
    const table = this.table();
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

  /** Changes the box; the change can be undone. */
  update(change: Partial<Box>): void {
    this.past.update((past) => [...past.slice(-99), this.box()]);
    this.future.set([]);
    this.box.update((box) => ({ ...box, ...change }));
  }

  readonly past = signal<readonly Box[]>([]);
  readonly future = signal<readonly Box[]>([]);

  undo(): void {
    const last = this.past().at(-1);
    if (!last) return;
    this.future.update((future) => [...future, this.box()]);
    this.past.update((past) => past.slice(0, -1));
    this.box.set(last);
  }

  redo(): void {
    const next = this.future().at(-1);
    if (!next) return;
    this.past.update((past) => [...past, this.box()]);
    this.future.update((future) => future.slice(0, -1));
    this.box.set(next);
  }

  /** Typing is not a change of the box's definition, and is not undone step by step with it. */
  type(strand: number, text: string): void {
    this.box.update((box) => ({
      ...box,
      strands: strandsOf(box).map((one, i) => (i === strand ? { ...one, text } : one)),
    }));
  }

  setStrand(strand: number, change: Partial<Strand>): void {
    this.update({ strands: this.strands().map((one, i) => (i === strand ? { ...one, ...change } : one)) });
  }

  addStrand(): void {
    if (this.strands().length < 16) this.update({ strands: [...this.strands(), { verb: 'minus', text: '' }] });
  }

  removeStrand(strand: number): void {
    this.update({ strands: this.strands().filter((_, i) => i !== strand) });
  }

  toggleThread(name: string): void {
    const threaded = this.threaded();
    const order = this.table()?.columns.map((column) => column.name) ?? [];
    const next = threaded.includes(name) ? threaded.filter((one) => one !== name) : [...threaded, name];
    this.update({ threaded: next.sort((a, b) => order.indexOf(a) - order.indexOf(b)) });
  }

  /** Up, down, then the table's own order again. @param further as a further level */
  sortBy(column: string, further: boolean): void {
    const sort = this.box().sort ?? [];
    const level = sort.find((one) => one.column === column);
    const others = further ? sort.filter((one) => one.column !== column) : [];
    const next = !level ? 'up' : level.direction === 'up' ? 'down' : undefined;
    const levels = next ? [{ column, direction: next } as const] : [];
    this.update({
      sort:
        further && level && next
          ? sort.map((one) => (one.column === column ? { ...one, direction: next } : one))
          : [...others, ...levels],
    });
  }

  setPicker(at: number, picker: Picker): void {
    this.update({ pickers: (this.box().pickers ?? []).map((one, i) => (i === at ? picker : one)) });
  }

  addPicker(column: Column): void {
    const picker: Picker =
      column.kind === 'number' ? { column: column.name, numbers: { from: null, to: null } }
      : column.kind === 'date' ? { column: column.name, days: { from: '', to: '' } }
      : column.kind === 'yes/no' ? { column: column.name, answer: 'either' }
      : { column: column.name, values: [] }; // prettier-ignore
    this.update({ pickers: [...(this.box().pickers ?? []), picker] });
  }

  removePicker(at: number): void {
    this.update({ pickers: (this.box().pickers ?? []).filter((_, i) => i !== at) });
  }
}

/** What a box asks of its table. */
export function questionOf(box: Box): WireQuestion {
  const { need, where, case: letters, accents, effect, nothingTyped, reading, flip, pickers, sort, threaded } = box;
  return {
    threaded: [...(threaded ?? [])],
    strands: [...strandsOf(box)],
    need, where, case: letters, accents, effect, nothingTyped, reading, flip, pickers, sort,
  }; // prettier-ignore
}

/** What happened, in words for a reader. */
export function messageOf(error: unknown): string {
  const { status = 0, error: body } = error as { status?: number; error?: { title?: string; detail?: string } };
  if (status === 0) return 'The server does not answer. What you typed is kept; the rows are from before.';
  if (status === 404) return 'This table is no longer there.';
  return [body?.title, body?.detail].filter(Boolean).join('. ') || 'Something went wrong on the server.';
}
