import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { AnswerRow } from '@usual-needle/contract';
import { debounceTime, of, switchMap, map, catchError } from 'rxjs';
import { Api } from '../services/api';
import { Answers } from './answers';
import { type CellPart, cellParts, stitchOf } from './cell-parts';
import { questionOf, SheetStore } from './sheet-store';

interface Field {
  readonly name: string;
  readonly parts: readonly CellPart[];
  readonly threaded: boolean;
}

/** One record beside the grid: all its fields, and why it matched. */
@Component({
  selector: 'un-peek',
  template: `
    <header>
      <h2>Row {{ row()?.place }}</h2>
      <button type="button" class="plain" aria-label="Previous row" (click)="stepped.emit(-1)">↑</button>
      <button type="button" class="plain" aria-label="Next row" (click)="stepped.emit(1)">↓</button>
      <button type="button" class="plain" (click)="closed.emit()">Close</button>
    </header>
    @if (why(); as line) {
      <p class="why">
        {{ line }}
        @for (keyword of keywords(); track $index) {
          <span class="hit"
            ><span [class]="keyword.stitch">{{ keyword.text }}</span> in {{ keyword.columns }}</span
          >
        }
      </p>
    }
    <dl tabindex="0" aria-label="Fields">
      @for (field of fields(); track field.name) {
        <dt [class.threaded]="field.threaded">{{ field.name }}</dt>
        <dd>
          @for (part of field.parts; track $index) {
            <span [class]="part.mark">{{ part.text }}</span>
          } @empty {
            <span class="blank">blank</span>
          }
        </dd>
      } @empty {
        <p class="blank">Fetching the record …</p>
      }
    </dl>
  `,
  host: { role: 'complementary', 'aria-label': 'Record' },
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      width: 360px;
      min-height: 0;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 10px;
      overflow: hidden;
    }
    header {
      display: flex;
      align-items: center;
      gap: 2px;
      padding: 8px 8px 8px 16px;
      background: var(--header);
      border-bottom: 1px solid var(--hairline);
    }
    h2 {
      flex: 1;
      font-size: 14px;
      font-variant-numeric: tabular-nums;
    }
    .why {
      padding: 10px 16px;
      border-bottom: 1px solid var(--faint);
      color: var(--soft-ink);
    }
    .hit {
      display: block;
      color: var(--ink);
    }
    dl {
      flex: 1;
      margin: 0;
      padding: 4px 16px 16px;
      overflow: auto;
    }
    dt {
      margin-top: 10px;
      color: var(--soft-ink);
      font-size: 12.5px;
    }
    dt.threaded::before {
      content: '';
      display: inline-block;
      width: 8px;
      height: 8px;
      margin-right: 6px;
      border: 2px solid var(--thread);
      border-radius: 50%;
    }
    dd {
      margin: 0;
      white-space: pre-wrap;
      overflow-wrap: anywhere;
    }
    .blank {
      color: var(--soft-ink);
      font-style: italic;
    }
    @media (max-width: 800px) {
      :host {
        position: absolute;
        inset: 0;
        z-index: 5;
        width: auto;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Peek {
  private readonly api = inject(Api);
  private readonly answers = inject(Answers);
  private readonly store = inject(SheetStore);

  /** Place in the list of rows on show. */
  readonly index = input.required<number>();
  readonly stepped = output<1 | -1>();
  readonly closed = output<void>();

  private readonly asked = computed(() => {
    const [table, answer] = [this.store.table(), this.answers.answer()];
    return table && answer ? { table, index: this.index() } : undefined;
  });
  /** The whole record, hidden columns too: the grid has only the ones on show. */
  private readonly fetched = toSignal(
    toObservable(this.asked).pipe(
      debounceTime(30),
      switchMap((asked) => {
        if (!asked) return of(undefined);
        const columns = this.store.reading() ? this.store.layout().map(({ name }) => name) : undefined;
        const request = { question: questionOf(this.store.box()), columns, offset: asked.index, limit: 1 };
        return this.api.search(asked.table.id, request).pipe(
          map(({ rows }) => ({
            row: rows[0] as AnswerRow | undefined,
            columns: columns ?? asked.table.columns.map(({ name }) => name),
          })),
          catchError(() => of(undefined)),
        );
      }),
    ),
  );
  protected readonly row = computed(() => this.fetched()?.row);
  protected readonly fields = computed<readonly Field[]>(() => {
    const fetched = this.fetched();
    if (!fetched?.row) return [];
    const { row, columns } = fetched;
    const threaded = new Set(this.store.threaded());
    return columns.map((name, i) => ({
      name,
      parts: cellParts(row.cells[i], row.marks.filter(([column]) => column === i)), // prettier-ignore
      threaded: threaded.has(name),
    }));
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
}
