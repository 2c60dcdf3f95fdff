import { Directive, ElementRef, inject, input, type OnChanges, type SimpleChanges } from '@angular/core';
import type { MarkTuple } from '@usual-needle/contract';
import { type CellPart, cellParts } from './cell-parts';
import type { LaidOutColumn } from './sheet-store';

/** What a row has to draw; a new object each time it differs. */
export interface RowContent {
  readonly cells: readonly string[];
  readonly marks: readonly MarkTuple[];
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

  private readonly row = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly cells: HTMLElement[] = [];
  private readonly drawn: string[] = [];

  ngOnChanges({ columns, lead, active, unRowCells }: SimpleChanges): void {
    if (columns || lead) this.layOut();
    if (columns || lead || active) this.mark(active?.previousValue as number | undefined, this.active());
    if (!columns && !lead && !unRowCells) return;
    const content = this.unRowCells();
    const marks: MarkTuple[][] = [];
    for (const mark of content?.marks ?? []) (marks[mark[0]] ??= []).push(mark);
    this.columns().forEach((column, i) => this.draw(i, column, content?.cells[i] ?? '', marks[i]));
  }

  private layOut(): void {
    const columns = this.columns();
    while (this.cells.length > columns.length) this.cells.pop()!.remove();
    this.drawn.length = 0;
    let left = 0;
    columns.forEach((column, i) => {
      const cell = (this.cells[i] ??= this.row.appendChild(newCell()));
      cell.className = `cell${column.code ? ' code' : ''}${i === this.lead() ? ' lead' : ''}`;
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

/** Puts parts into a cell, using again the nodes that are there. */
function fill(cell: HTMLElement, parts: readonly CellPart[]): void {
  parts.forEach(({ text, mark }, i) => {
    const node = cell.childNodes[i] as ChildNode | undefined;
    if (mark === '' && node instanceof Text) setText(node, text);
    else if (mark !== '' && node instanceof HTMLElement) {
      if (node.className !== mark) node.className = mark;
      setText(node.firstChild as Text, text);
    } else {
      const made = mark === '' ? document.createTextNode(text) : marked(text, mark);
      if (node) node.replaceWith(made);
      else cell.append(made);
    }
  });
  while (cell.childNodes.length > parts.length) cell.lastChild!.remove();
}

function setText(node: Text, text: string): void {
  if (node.data !== text) node.data = text;
}

function marked(text: string, mark: string): HTMLElement {
  const span = document.createElement('span');
  span.className = mark;
  span.textContent = text;
  return span;
}
