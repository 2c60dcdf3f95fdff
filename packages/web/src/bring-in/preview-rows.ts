import { ChangeDetectionStrategy, Component, computed, ElementRef, effect, inject, input, output } from '@angular/core';
import type { MarkTuple } from '@usual-needle/contract';
import type { Look, LookRow } from '@usual-needle/formats';
import { cellParts } from '../common/cell-parts';
import { DrawnParts } from '../common/parts';
import type { Tried } from './messages';
import { kindWords } from './words';

/** The most cells that are drawn. */
const MOST_CELLS = 6_000;

/** The rows as they will be, their columns' kinds in the head, and what does not fit marked in its cell. */
@Component({
  selector: 'un-preview-rows',
  imports: [DrawnParts],
  template: `
    <table class="preview">
      <thead>
        <tr>
          <th class="line"><span class="unseen">Line</span></th>
          @for (head of heads(); track $index) {
            <th scope="col" [class.out]="!head.taken" [class.number]="head.number">
              <button
                type="button"
                aria-haspopup="dialog"
                [attr.aria-label]="head.name + ', ' + head.kind"
                (click)="headed.emit({ column: $index, event: $event })"
              >
                <span>{{ head.name }}</span>
                <small>{{ head.kind }}</small>
              </button>
            </th>
          }
        </tr>
      </thead>
      <tbody>
        @for (row of drawn(); track row.line) {
          <tr [class.mended]="row.mended">
            <td class="line">{{ row.line }}</td>
            @for (cell of row.cells; track $index) {
              <td
                [class.wrong]="cell.wrong"
                [class.out]="!heads()[$index]?.taken"
                [class.number]="heads()[$index]?.number"
                [attr.title]="cell.title"
                [unParts]="cell.parts"
              ></td>
            }
          </tr>
        } @empty {
          <tr>
            <td class="line"></td>
            <td class="nothing" [attr.colspan]="heads().length || 1">
              {{ tried() ? 'None of these rows matches.' : look() ? 'There is no row.' : 'Reading …' }}
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: `
    :host {
      display: block;
      flex: 1;
      min-width: 0;
      overflow: auto;
    }
    th {
      padding: 0;
      font-weight: 400;
    }
    th button {
      display: grid;
      gap: 2px;
      width: 100%;
      padding: 8px 14px 7px;
      border: 0;
      background: none;
      text-align: left;
    }
    th button:focus-visible {
      outline-offset: -2px;
    }
    th.number button {
      justify-items: end;
    }
    th span {
      font-weight: 650;
    }
    th small {
      color: var(--soft-ink);
      font-size: 12.5px;
      text-decoration: underline dotted var(--eyelet);
      text-underline-offset: 3px;
      white-space: nowrap;
    }
    td.number {
      text-align: right;
    }
    .line {
      position: sticky;
      left: 0;
      min-width: 56px;
      text-align: right;
      background: var(--leaf);
      color: var(--soft-ink);
      font: 13px var(--mono);
    }
    th.line {
      z-index: 2;
      background: var(--header);
    }
    .wrong {
      background: var(--tint-4);
      border-bottom: 2px solid var(--stitch-4);
    }
    .mended td {
      background: var(--header);
    }
    .mended td.wrong {
      background: var(--tint-4);
    }
    .out,
    .out span,
    .out small {
      color: var(--soft-ink);
      text-decoration: line-through;
      text-decoration-color: var(--hairline);
    }
    .nothing {
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PreviewRows {
  readonly look = input<Look>();
  readonly rows = input<readonly LookRow[]>([]);
  readonly tried = input<Tried>();
  readonly headed = output<{ readonly column: number; readonly event: Event }>();

  protected readonly heads = computed(() =>
    (this.look()?.columns ?? []).map((column) => ({
      name: column.column.name,
      kind: kindWords(column),
      taken: column.taken,
      number: column.column.kind === 'number',
    })),
  );
  protected readonly drawn = computed(() => {
    const tried = this.tried();
    const found = tried && new Map(tried.found.map(({ line, marks }) => [line, marks]));
    const rows = found ? this.rows().filter(({ line }) => found.has(line)) : this.rows();
    const most = Math.max(20, Math.floor(MOST_CELLS / Math.max(1, this.heads().length)));
    return rows.slice(0, most).map(({ line, cells, wrong, mended }) => ({
      line,
      mended,
      cells: cells.map((text, i) =>
        drawnCell(
          text,
          wrong.includes(i),
          found?.get(line)?.filter(([column]) => column === i),
        ),
      ),
    }));
  });

  constructor() {
    const element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    // Other rows are shown from their beginning.
    effect(() => {
      this.rows();
      element.scrollTop = 0;
    });
  }
}

function drawnCell(text: string, wrong: boolean, marks: readonly MarkTuple[] = []) {
  // A line break would make the row higher, and marks lie by letter.
  const parts = cellParts(text, marks).map((part) => ({ ...part, text: part.text.replace(/\r\n|\r|\n/g, ' ⏎ ') }));
  return { wrong, parts, title: text.length > 40 ? text : null };
}
