import { computed, Injectable, inject, signal, type Signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import type {
  AnswerRow, Box, Column, SearchAnswer, SearchRequest, TableSummary,
} from '@usual-needle/contract'; // prettier-ignore
import { auditTime, Subject, switchMap, of, timer, map } from 'rxjs';
import { Api } from '../services/api';
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
  readonly text = signal('');
  readonly threaded = computed(() => this.box().threaded ?? []);

  /** The answer on show, and the text it answers. */
  readonly answer = signal<SearchAnswer | undefined>(undefined);
  readonly answered = signal('');
  readonly error = signal<string | undefined>(undefined);
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
    const tallies = this.answer()?.columnTallies;
    const named: readonly { name: string; width?: number }[] =
      this.box().columns ?? table.columns.map(({ name }) => ({ name }));
    return named.flatMap(({ name, width }, i) => {
      const column = table.columns.find((candidate) => candidate.name === name);
      if (!column) return [];
      const hits = tallies?.[i] ?? 0;
      return [{ name, kind: column.kind, width: width ?? usualWidth(column), threaded: threaded.has(name), hits }];
    });
  });

  private readonly asked = computed<Asked | undefined>(() => {
    const table = this.table();
    if (!table) return undefined;
    const { need, where, case: letters, accents, effect, nothingTyped, reading, flip } = this.box();
    const columns = this.box().columns?.map(({ name }) => name);
    const question = {
      threaded: [...this.threaded()],
      strands: [{ verb: 'find' as const, text: this.text() }],
      need, where, case: letters, accents, effect, nothingTyped, reading, flip,
    }; // prettier-ignore
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

  toggleThread(name: string): void {
    this.box.update((box) => {
      const threaded = box.threaded ?? [];
      const order = this.table()?.columns.map((column) => column.name) ?? [];
      const next = threaded.includes(name) ? threaded.filter((one) => one !== name) : [...threaded, name];
      return { ...box, threaded: next.sort((a, b) => order.indexOf(a) - order.indexOf(b)) };
    });
  }
}

/** What happened, in words for a reader. */
export function messageOf(error: unknown): string {
  const { status = 0, error: body } = error as { status?: number; error?: { title?: string; detail?: string } };
  if (status === 0) return 'The server does not answer. What you typed is kept; the rows are from before.';
  if (status === 404) return 'This table is no longer there.';
  return [body?.title, body?.detail].filter(Boolean).join('. ') || 'Something went wrong on the server.';
}
