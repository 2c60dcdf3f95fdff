import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { AnswerRow } from '@usual-needle/contract';
import { type CellPart, cellParts } from '../common/cell-parts';
import { DrawnParts } from '../common/parts';

/** Letters of a cell that are told; of a long one those about its first mark. */
const TOLD = 90;
const BEFORE = 24;

interface BestRow {
  readonly id: number;
  readonly key: string;
  readonly cells: readonly { readonly name: string; readonly parts: readonly CellPart[] }[];
}

/** The best rows of a table, each as a line: what it is called, then every cell that was hit. */
@Component({
  selector: 'un-best-rows',
  imports: [DrawnParts],
  template: `
    @for (row of told(); track row.id) {
      <a class="hit" [href]="href() + (href().includes('?') ? '&' : '?') + 'row=' + row.id">
        <span class="key">{{ row.key }}</span>
        <span class="cells">
          @for (cell of row.cells; track $index) {
            @if ($index > 0) {
              <small> · {{ cell.name }}: </small>
            }
            <span [unParts]="cell.parts"></span>
          }
        </span>
      </a>
    }
  `,
  styles: `
    :host {
      display: grid;
      padding: 8px 0 2px;
    }
    a {
      display: flex;
      gap: 12px;
      padding: 1px 4px;
      border-radius: 4px;
      text-decoration: none;
    }
    a:hover {
      background: var(--header);
    }
    .key {
      flex: none;
      min-width: 66px;
      max-width: 160px;
      overflow: hidden;
      text-overflow: ellipsis;
      font-family: var(--mono);
      color: var(--soft-ink);
      white-space: nowrap;
    }
    .cells {
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    small {
      font-size: inherit;
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BestRows {
  readonly rows = input.required<readonly AnswerRow[]>();
  /** Names of the cells' columns; the first is what a row is called by. */
  readonly columns = input.required<readonly string[]>();
  /** Where they lead. */
  readonly href = input.required<string>();

  protected readonly told = computed<readonly BestRow[]>(() =>
    this.rows().map(({ id, cells, marks }) => {
      const parts = (i: number): CellPart[] =>
        shortened(
          cellParts(
            cells[i],
            marks.filter(([column]) => column === i),
          ),
        );
      const hit = cells.map((_, i) => i).filter((i) => i > 0 && marks.some(([column]) => column === i));
      // What it is comes first, whether it was hit or not.
      const shown = [...new Set([...(cells.length > 1 ? [1] : []), ...hit])];
      return { id, key: cells[0] ?? '', cells: shown.map((i) => ({ name: this.columns()[i], parts: parts(i) })) };
    }),
  );
}

function shortened(parts: readonly CellPart[]): CellPart[] {
  const first = parts.findIndex(({ mark }) => mark !== '');
  let left = TOLD;
  const told: CellPart[] = [];
  for (const [i, { text, mark }] of parts.entries()) {
    if (left <= 0) break;
    const plain = text.replace(/\s+/g, ' ');
    // Of what stands before the first mark its end is told.
    const cut = i < first && plain.length > 2 * BEFORE ? `… ${plain.slice(-BEFORE)}` : plain;
    const piece = cut.length > left ? `${cut.slice(0, left)}…` : cut;
    left -= piece.length;
    told.push({ text: piece, mark });
  }
  return told;
}
