import {
  afterNextRender,
  ApplicationRef,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  ElementRef,
  inject,
  Injector,
  input,
  linkedSignal,
  output,
  type Signal,
  signal,
  viewChild,
} from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { type AnswerRow, type Borrows, type Column, columnAt, type SearchAnswer } from '@usual-needle/contract';
import { catchError, debounceTime, map, of, switchMap, tap } from 'rxjs';
import { Api } from '../../services/api';
import { Answers } from '../state/answers';
import { errorWords } from '../../common/error-words';
import { type CellPart, cellParts, stitchOf } from '../../common/cell-parts';
import { BorrowedFrom } from '../borrow/borrowed-from';
import { CellEditor, type Written } from '../keep/cell-editor';
import { Edits } from '../keep/edits';
import { Keeper } from '../keep/keeper';
import { overBoth, type OverCells } from '../keep/over-cells';
import { unfit } from '../keep/unfit';
import { rawCell } from '../state/fetched-rows';
import { SheetStore } from '../state/sheet-store';
import { RowHistoryList } from './row-history';

interface Field {
  readonly name: string;
  readonly column: Column | undefined;
  /** The text as it is stored. */
  readonly raw: string;
  /** Why it does not fit its column; empty if it does. */
  readonly doubt: string;
  /** The key that a borrowed field is looked up by; empty where nothing is found. */
  readonly key: string;
  readonly parts: readonly CellPart[];
  readonly threaded: boolean;
}

/** The record as the server last told it; no row where the list ends before that place. */
interface Fetched {
  readonly index: number;
  readonly row: AnswerRow | undefined;
  readonly columns: readonly string[];
  readonly answer: SearchAnswer;
}

/** A record beside the grid: all its fields, and why it matched. */
@Component({
  selector: 'un-peek',
  imports: [BorrowedFrom, CellEditor, RowHistoryList],
  templateUrl: './peek.html',
  host: { class: 'beside-rows', role: 'complementary', 'aria-label': 'Record' },
  styleUrl: './peek.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Peek {
  private readonly api = inject(Api);
  private readonly answers = inject(Answers);
  private readonly store = inject(SheetStore);

  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly injector = inject(Injector);
  private readonly app = inject(ApplicationRef);
  private readonly edits = inject(Edits);
  protected readonly keeper = inject(Keeper);

  /** The field that is open for writing, and whether the row's history is. */
  protected readonly opened = signal('');
  protected readonly tells = signal(false);

  /** Whether the history of the row can be had. */
  protected readonly canTell = computed(
    () => this.store.changeable() || this.store.readerMay()?.includes('see history') === true,
  );

  /** Place in the list of rows on show. */
  readonly index = input.required<number>();
  readonly stepped = output<1 | -1>();
  readonly closed = output<void>();
  private readonly close = viewChild.required<ElementRef<HTMLElement>>('close');
  /** Place of the last row on show. */
  protected readonly last = computed(() => (this.answers.answer()?.shown ?? 0) - 1);

  constructor() {
    // Another record has come here: what was being typed is written to the one that it was typed for.
    let shown: number | undefined;
    effect(() => {
      const id = this.row()?.id;
      if (shown !== undefined && id !== shown) this.opened.set('');
      shown = id;
    });
    // Where it covers the rows, the focus goes with it.
    afterNextRender(() => {
      if (matchMedia('(max-width: 800px)').matches) this.close().nativeElement.focus();
    });
  }

  private readonly asked = computed(() => {
    const [table, answer] = [this.store.table(), this.answers.answer()];
    return table && answer ? { table, answer, index: this.index() } : undefined;
  });
  /** Why the record could not be fetched; empty where it was. */
  protected readonly failed = signal('');
  /** The whole record, hidden columns too: the grid has only the ones on show. */
  private readonly fetched: Signal<Fetched | undefined> = toSignal(
    toObservable(this.asked).pipe(
      debounceTime(30),
      switchMap((asked) => {
        if (!asked) return of(undefined);
        const columns = this.store.readersView() ? this.store.layout().map(({ name }) => name) : undefined;
        const question = this.answers.questionOnShow();
        if (!question) return of(undefined);
        const stays = this.answers.lately.stays().map((stay) => ({ ...stay }));
        const request = { question, columns, offset: asked.index, limit: 1, raw: this.keeper.canEdit(), stays };
        return this.api.search(asked.table.id, request).pipe(
          map(({ rows }) => ({
            index: asked.index,
            row: rows[0] as AnswerRow | undefined,
            columns: columns ?? asked.table.columns.map(({ name }) => name),
            answer: asked.answer,
          })),
          tap(() => this.failed.set('')),
          catchError((error: unknown) => {
            this.failed.set(errorWords(error));
            // A record that is on show already stays, and what is being typed into it: only its news could not be had.
            const before = this.fetched();
            return of(before?.index === asked.index ? before : undefined);
          }),
        );
      }),
    ),
  );
  protected readonly row = computed(() => this.fetched()?.row);
  /** The texts that cells are to have, until the record as it was fetched says so itself: that comes a moment after the rows on show. */
  private readonly over = linkedSignal<{ over: OverCells; stale: boolean }, OverCells>({
    source: () => ({
      over: this.edits.over(),
      stale: this.fetched()?.answer !== this.answers.answer(),
    }),
    computation: ({ over, stale }, before) => (stale && before ? overBoth(before.value, over) : over),
  });
  protected readonly fields = computed<readonly Field[]>(() => {
    const fetched = this.fetched();
    if (!fetched?.row) return [];
    const { row, columns } = fetched;
    const threaded = new Set(this.store.threaded());
    const over = this.over().get(row.id);
    const all = this.store.table()?.columns ?? [];
    const keyOf = ({ key }: Borrows): string => {
      const at = columnAt(all, key);
      const place = at < 0 ? -1 : columns.indexOf(all[at].name);
      return place < 0 ? '' : rawCell(row, place);
    };
    return columns.map((name, i) => {
      const column = all.find((one) => one.name === name);
      const edit = over?.get(name);
      const raw = edit?.text ?? rawCell(row, i);
      const marks = edit ? [] : row.marks.filter(([place]) => place === i);
      return {
        name,
        column,
        raw,
        doubt: column ? unfit(raw, column) : '',
        key: column?.borrows && raw !== '' ? keyOf(column.borrows) : '',
        parts: cellParts(edit?.text ?? row.cells[i], marks),
        threaded: threaded.has(name),
      };
    });
  });

  protected readonly why = computed(() => {
    const answer = this.answers.answer();
    const row = this.row();
    if (!answer?.asked || !row) return '';
    if (!row.match) return 'This row does not match what is typed.';
    return this.keywords().length > 0 ? 'It matches:' : 'It matches what is asked of it, which draws no marks.';
  });
  /** Each keyword that hit here, and where. */
  protected readonly keywords = computed(() => {
    const fetched = this.fetched();
    if (!fetched?.row) return [];
    const { row, columns } = fetched;
    const drawn = (this.answers.answer()?.keywords ?? []).filter(({ number }) => number > 0);
    return drawn.flatMap(({ number, text }) => {
      const hit = new Set(row.marks.filter(([, , , keyword]) => keyword === number).map(([column]) => columns[column]));
      return hit.size === 0 ? [] : [{ text, stitch: stitchOf(number), columns: [...hit].join(', ') }];
    });
  });

  /** The field is there, and has the focus, before the next key. */
  protected open(name: string): void {
    this.opened.set(name);
    this.app.tick();
  }

  protected wrote({ name }: Field, { text, was, onward }: Written): void {
    const row = this.row();
    if (row && text !== undefined) this.keeper.write(row.id, name, was, text, this.index());
    const names = this.fields().map((field) => field.name);
    const next = names[names.indexOf(name) + (onward === 'right' ? 1 : onward === 'left' ? -1 : 0)];
    if ((onward === 'right' || onward === 'left') && next !== undefined) this.open(next);
    else this.closeField(name, onward !== 'stay');
  }

  protected rescueOf({ name }: Field): (text: string, was: string) => void {
    const id = this.row()?.id;
    return (text, was) => {
      if (id !== undefined) this.keeper.write(id, name, was, text);
    };
  }

  /** The focus goes back to what opened it. */
  protected closeField(name: string, back = true): void {
    this.opened.set('');
    if (!back) return;
    afterNextRender(() => this.element.querySelector<HTMLElement>(`[data-field="${CSS.escape(name)}"]`)?.focus(), {
      injector: this.injector,
    });
  }
}
