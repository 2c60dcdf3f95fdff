import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { WireReason } from '@usual-needle/contract';
import { catchError, debounceTime, map, of, switchMap } from 'rxjs';
import { counted, rowsCounted as rows } from '../services/numbers';
import { Api } from '../services/api';
import { stitchOf } from './cell-parts';
import { changedBox } from './box-change';
import { listed } from './sentence';
import { Answers } from './answers';
import { questionOf, SheetStore } from './sheet-store';

/** A reason as it is shown: what is the matter, and the remedy's button. */
interface Shown {
  readonly keyword: string;
  readonly stitch: string;
  readonly text: string;
  readonly gives: string;
  readonly button: string;
  readonly reason: WireReason;
}

/** What a reason says, and what its button is called. */
export function reasonWords(reason: WireReason): { text: string; button: string } {
  const columns = listed((reason.columns ?? []).map(({ column }) => column));
  const found = rows(reason.found ?? 0);
  switch (reason.kind) {
    case 'near spelling':
      return { text: `is in no row. Near spelling: ${reason.text}, in ${found}.`, button: `Use ${reason.text}` };
    case 'other columns':
      return {
        text: `is in ${found}, but only outside the columns searched: ${columns}.`,
        button: `Thread ${columns} too`,
      };
    case 'picker':
      return {
        text: `Narrowing by ${columns} leaves out rows that would match.`,
        button: `Show any ${columns.toLowerCase()}`,
      };
    case 'any word':
      return { text: 'No row has every keyword.', button: 'Ask for any word' };
    case 'one keyword':
      return { text: 'is not in one row with the others.', button: `Drop ${reason.keyword}` };
    case 'case':
      return { text: 'Case is minded.', button: 'Ignore case' };
    case 'accents':
      return { text: 'Accents are minded.', button: 'Ignore accents' };
    case 'position':
      return { text: 'Hits have to stand where the sentence says.', button: 'Match anywhere in the cell' };
    case 'reading':
      return { text: 'The text is not read as words.', button: 'Read as words' };
    case 'strand':
      return { text: `The strand “${reason.text}” takes the last rows away.`, button: 'Remove it' };
    case 'unreadable':
      return { text: reason.text ?? '', button: 'Leave it out' };
    default:
      return { text: 'All of these together.', button: 'Do them all' };
  }
}

/** No rows: the box's own message first, then what stands in the way, each with one click out of it. */
@Component({
  selector: 'un-nothing-found',
  template: `
    <h2>{{ message() }}</h2>
    @if (reasons(); as list) {
      @if (list.length > 0) {
        <p class="soft">Here is what stands in the way:</p>
        <ul>
          @for (one of list; track $index) {
            <li>
              <span>
                @if (one.keyword) {
                  <span [class]="one.stitch">{{ one.keyword }}</span>
                }
                {{ one.text }}
                <span class="soft">{{ one.gives }}</span>
              </span>
              <button type="button" (click)="mend(one.reason)">{{ one.button }}</button>
            </li>
          }
        </ul>
      }
    }
    <p class="soft">{{ where() }}</p>
    <button type="button" class="clear" (click)="clear.emit()">Clear the box</button>
  `,
  styles: `
    :host {
      display: block;
      padding: 42px 24px 20px 150px;
      background: var(--leaf);
    }
    h2 {
      font-size: 20px;
      margin-bottom: 8px;
      text-wrap: balance;
    }
    .soft {
      color: var(--soft-ink);
    }
    ul {
      list-style: none;
      margin: 16px 0;
      padding: 0;
      max-width: 860px;
      border-top: 1px solid var(--hairline);
      overflow-wrap: anywhere;
    }
    li {
      display: flex;
      align-items: center;
      justify-content: space-between;
      gap: 20px;
      padding: 11px 0;
      border-bottom: 1px solid var(--hairline);
    }
    button {
      flex: none;
      max-width: 300px;
      padding: 6px 12px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 6px;
      text-align: left;
    }
    button:hover {
      border-color: var(--thread);
    }
    .clear {
      margin-top: 16px;
    }
    @media (max-width: 900px) {
      :host {
        padding-left: 24px;
      }
      li {
        flex-direction: column;
        align-items: flex-start;
        gap: 8px;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NothingFound {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);
  readonly clear = output<void>();

  protected readonly message = computed(() => this.store.box().wording?.nothingFound ?? 'No row has that.');
  private readonly asked = computed(() => {
    const table = this.store.table();
    return table && { table: table.id, question: questionOf(this.store.box()) };
  });
  /** Asked for apart from the rows, and only once typing pauses. */
  private readonly explained = toSignal(
    toObservable(this.asked).pipe(
      debounceTime(120),
      switchMap((asked) =>
        asked
          ? this.api.explain(asked.table, { question: asked.question, ...this.answers.turnNow() })
          : of({ reasons: [] }),
      ),
      map(({ reasons }) => reasons),
      catchError(() => of([])),
    ),
  );

  protected readonly reasons = computed<readonly Shown[] | undefined>(() => {
    const keywords = this.answers.answer()?.keywords ?? [];
    return this.explained()?.map((reason) => {
      const keyword = keywords.find(({ text, strand }) => text === reason.keyword && strand === reason.strand);
      const { text, button } = reasonWords(reason);
      const about = ['near spelling', 'other columns', 'one keyword'].includes(reason.kind);
      return {
        keyword: about ? (reason.keyword ?? '') : '',
        stitch: keyword && keyword.number > 0 ? stitchOf(keyword.number) : '',
        text,
        gives: `Gives ${rows(reason.rows)}.`,
        button,
        reason,
      };
    });
  });

  protected readonly where = computed(() => {
    const total = this.answers.answer()?.total;
    const threaded = this.store.threaded();
    if (threaded.length === 0) return 'No column is threaded, so nothing was searched. Click an eyelet in the header.';
    return `Looked in ${listed(threaded)} of all ${counted(total ?? 0)} rows.`;
  });

  protected mend(reason: WireReason): void {
    this.store.update(changedBox(this.store.box(), reason.change));
  }
}
