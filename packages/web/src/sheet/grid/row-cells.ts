import { Directive, ElementRef, inject, input, type OnChanges, type SimpleChanges } from '@angular/core';
import type { MarkTuple } from '@usual-needle/contract';
import { cellParts } from '../../common/cell-parts';
import { fill } from '../../common/parts';
import { unfit } from '../keep/unfit';
import { rawCell } from '../state/fetched-rows';
import type { LaidOutColumn } from '../state/layout';

/** The content that a row has to draw; a new object each time it differs. */
interface RowContent {
  readonly cells: readonly string[];
  readonly marks: readonly MarkTuple[];
  /** The columns that the cells are of, by name. */
  readonly columns: readonly string[];
  /** Cells whose edit is on its way, or clashes, by column. */
  readonly states?: ReadonlyMap<string, 'waiting' | 'clash'>;
  readonly raw?: readonly (readonly [number, string])[];
}

/** Wider than most characters are, in pixels: a text that may be cut off gets a title. */
const CHARACTER = 6;

/**
 * Draws the cells of a row into its element, by hand: some hundred cells change at each keystroke, and most of them only
 * in their text. A cell of plain text is one text node; only a marked one has elements in it; and all are used again.
 */
@Directive({ selector: '[unRowCells]' })
export class RowCells implements OnChanges {
  readonly unRowCells = input.required<RowContent | undefined>();
  readonly columns = input.required<readonly LaidOutColumn[]>();
  /** The column that a folded row shows first. */
  readonly lead = input(-1);
  /** The column of the cell gone to; -1 if it is in another row. */
  readonly active = input(-1);

  /** First and last column of the selected block; -1 if the row is not in it. */
  readonly from = input(-1);
  readonly to = input(-1);

  private readonly row = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly cells: HTMLElement[] = [];
  private readonly drawn: string[] = [];

  ngOnChanges({ columns, lead, active, from, to, unRowCells }: SimpleChanges): void {
    if (columns || lead) this.layOut();
    if (columns || lead || active) this.mark(active?.previousValue as number | undefined, this.active());
    if (columns || lead || from || to) this.select();
    if (!columns && !lead && !unRowCells) return;
    const content = this.unRowCells();
    const marks: MarkTuple[][] = [];
    for (const mark of content?.marks ?? []) (marks[mark[0]] ??= []).push(mark);
    this.columns().forEach((column, i) => {
      // By name: a column that was just shown, or moved, is not where the cells fetched before have it.
      const at = content ? (content.columns[i] === column.name ? i : content.columns.indexOf(column.name)) : -1;
      this.draw(i, column, content?.cells[at] ?? '', marks[at]);
      if (column.kind !== 'text' && column.kind !== 'choice') {
        this.doubt(i, content ? unfit(rawCell(content, at), column.spec) : '');
      }
      this.state(i, content?.states?.get(column.name) ?? '');
    });
  }

  /** A cell that its column cannot read is pointed out. */
  private doubt(i: number, words: string): void {
    const cell = this.cells[i];
    if (cell.classList.contains('unfit') === (words !== '')) return;
    cell.classList.toggle('unfit', words !== '');
    if (words === '') {
      cell.removeAttribute('title');
      cell.removeAttribute('aria-description');
      return;
    }
    cell.title = words;
    cell.setAttribute('aria-description', words);
  }

  private select(): void {
    const [from, to] = [this.from(), this.to()];
    this.cells.forEach((cell, i) => {
      const selected = from >= 0 && i >= from && i <= to;
      if (cell.classList.contains('selected') !== selected) cell.classList.toggle('selected', selected);
      if (selected) cell.setAttribute('aria-selected', 'true');
      else if (cell.hasAttribute('aria-selected')) cell.removeAttribute('aria-selected');
    });
  }

  private state(i: number, state: string): void {
    const { dataset } = this.cells[i];
    if (state === '') delete dataset['state'];
    else dataset['state'] = state;
  }

  private layOut(): void {
    const columns = this.columns();
    while (this.cells.length > columns.length) this.cells.pop()!.remove();
    this.drawn.length = 0;
    let left = 0;
    columns.forEach((column, i) => {
      const cell = (this.cells[i] ??= this.row.appendChild(newCell()));
      cell.className = `cell${column.code ? ' code' : ''}${column.kind === 'number' ? ' number' : ''}${i === this.lead() ? ' lead' : ''}`;
      cell.setAttribute('aria-colindex', String(i + 2));
      cell.style.left = `${left}px`;
      cell.style.width = `${column.width}px`;
      left += column.width;
    });
  }

  private mark(before: number | undefined, now: number): void {
    this.cells[before ?? -1]?.classList.remove('active');
    this.cells[before ?? -1]?.removeAttribute('id');
    this.cells[now]?.classList.add('active');
    this.cells[now]?.setAttribute('id', 'active-cell');
  }

  private draw(i: number, { width }: LaidOutColumn, text: string, marks: readonly MarkTuple[] | undefined): void {
    const drawn = marks ? `${text}\n${marks.join()}` : text;
    if (this.drawn[i] === drawn) return;
    this.drawn[i] = drawn;
    const cell = this.cells[i];
    fill(cell, cellParts(text, marks ?? []));
    if (text.length * CHARACTER > width) cell.title = text;
    else if (cell.title !== '') cell.removeAttribute('title');
  }
}

function newCell(): HTMLElement {
  const cell = document.createElement('div');
  cell.setAttribute('role', 'gridcell');
  return cell;
}
