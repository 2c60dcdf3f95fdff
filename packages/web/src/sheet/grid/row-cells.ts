import type { MarkTuple } from '@usual-needle/contract';
import { cellParts } from '../../common/cell-parts';
import { fill } from '../../common/parts';
import { unfit } from '../keep/unfit';
import { rawCell } from '../state/fetched-rows';
import type { LaidOutColumn } from '../state/layout';
import { mayBeCut, surelyFits } from './text-width';

/** The content that a row has to draw; a new object each time it differs. */
export interface RowContent {
  readonly cells: readonly string[];
  readonly marks: readonly MarkTuple[];
  /** The columns that the cells are of, by name. */
  readonly columns: readonly string[];
  /** Cells whose edit is on its way, or clashes, by column. */
  readonly states?: ReadonlyMap<string, 'waiting' | 'clash'>;
  readonly raw?: readonly (readonly [number, string])[];
}

/** How a row's cells are drawn, besides what they hold. */
export interface CellsLook {
  readonly columns: readonly LaidOutColumn[];
  /** The column that a folded row shows first; -1 for none. */
  readonly lead: number;
  /** The column of the cell gone to; -1 if it is in another row. */
  readonly active: number;
  /** First and last column of the selected block; -1 if the row is not in it. */
  readonly from: number;
  readonly to: number;
}

/** Cells of no column, gone to and selected nowhere. */
export const PLAIN: CellsLook = { columns: [], lead: -1, active: -1, from: -1, to: -1 };

/** A cell's element, and what was drawn into it last; no text if nothing was. */
interface Drawn {
  readonly element: HTMLElement;
  text: string | undefined;
  marks: readonly MarkTuple[] | undefined;
  fits: boolean;
  /** Why its text does not fit its column, in words. */
  unfit: string;
  title: string;
  state: string;
}

/**
 * Draws the cells of a row into its element, by hand: some hundred cells change at each keystroke, and most of them only
 * in their text. A cell of plain text is one text node; only a marked one has elements in it; and all are used again.
 */
export class RowCells {
  private readonly cells: Drawn[] = [];
  private look = PLAIN;
  private content: RowContent | undefined;

  /** @param row the element that the cells go into, after what is in it */
  constructor(private readonly row: HTMLElement) {}

  draw(content: RowContent | undefined, look: CellsLook): void {
    const [before, was] = [this.look, this.content];
    this.look = look;
    this.content = content;
    const isLaidOut = before.columns === look.columns && before.lead === look.lead;
    if (!isLaidOut) this.layOut();
    if (!isLaidOut || before.active !== look.active) this.mark(before.active, look.active);
    if (!isLaidOut || before.from !== look.from || before.to !== look.to) this.select();
    if (isLaidOut && was === content) return;
    const marks: MarkTuple[][] = [];
    for (const mark of content?.marks ?? []) (marks[mark[0]] ??= []).push(mark);
    look.columns.forEach((column, i) => {
      // By name: a column that was just shown, or moved, is not where the cells fetched before have it.
      const at = content ? (content.columns[i] === column.name ? i : content.columns.indexOf(column.name)) : -1;
      const cell = this.cells[i];
      const text = content?.cells[at] ?? '';
      this.fill(cell, column.width, text, marks[at]);
      const isRead = column.kind !== 'text' && column.kind !== 'choice';
      this.doubt(cell, content && isRead ? unfit(rawCell(content, at), column.spec) : '');
      this.entitle(cell, cell.unfit !== '' ? cell.unfit : mayBeCut(text, column.width) ? text : '');
      this.state(cell, content?.states?.get(column.name) ?? '');
    });
  }

  /** A cell that its column cannot read is pointed out. */
  private doubt(cell: Drawn, words: string): void {
    if (cell.unfit === words) return;
    cell.unfit = words;
    cell.element.classList.toggle('unfit', words !== '');
    if (words === '') cell.element.removeAttribute('aria-description');
    else cell.element.setAttribute('aria-description', words);
  }

  private entitle(cell: Drawn, title: string): void {
    if (cell.title === title) return;
    cell.title = title;
    if (title === '') cell.element.removeAttribute('title');
    else cell.element.title = title;
  }

  private select(): void {
    const { from, to } = this.look;
    this.cells.forEach(({ element }, i) => {
      const selected = from >= 0 && i >= from && i <= to;
      if (element.classList.contains('selected') !== selected) element.classList.toggle('selected', selected);
      if (selected) element.setAttribute('aria-selected', 'true');
      else if (element.hasAttribute('aria-selected')) element.removeAttribute('aria-selected');
    });
  }

  private state(cell: Drawn, state: string): void {
    if (cell.state === state) return;
    cell.state = state;
    if (state === '') delete cell.element.dataset['state'];
    else cell.element.dataset['state'] = state;
  }

  private layOut(): void {
    const { columns, lead } = this.look;
    while (this.cells.length > columns.length) this.cells.pop()!.element.remove();
    let left = 0;
    columns.forEach((column, i) => {
      const cell = (this.cells[i] ??= newCell(this.row));
      const { element } = cell;
      element.className = `cell${column.code ? ' code' : ''}${column.kind === 'number' ? ' number' : ''}${i === lead ? ' lead' : ''}`;
      element.setAttribute('aria-colindex', String(i + 2));
      element.style.left = `${left}px`;
      element.style.width = `${column.width}px`;
      left += column.width;
      // Whatever was in it is drawn anew.
      this.doubt(cell, '');
      Object.assign(cell, { text: undefined, marks: undefined, fits: false });
    });
  }

  private mark(before: number, now: number): void {
    const was = this.cells[before]?.element;
    was?.classList.remove('active');
    was?.removeAttribute('id');
    const is = this.cells[now]?.element;
    is?.classList.add('active');
    is?.setAttribute('id', 'active-cell');
  }

  private fill(cell: Drawn, width: number, text: string, marks: readonly MarkTuple[] | undefined): void {
    if (cell.text === text && alike(cell.marks, marks)) return;
    const { element } = cell;
    fill(element, cellParts(text, marks ?? []));
    const fits = surelyFits(text, width);
    if (fits !== cell.fits) element.classList.toggle('fits', fits);
    Object.assign(cell, { text, marks, fits });
  }
}

function alike(a: readonly MarkTuple[] | undefined, b: readonly MarkTuple[] | undefined): boolean {
  if (a === undefined || b === undefined) return a === b;
  return a.length === b.length && a.every((mark, i) => mark.every((one, part) => one === b[i][part]));
}

function newCell(row: HTMLElement): Drawn {
  const element = document.createElement('div');
  element.setAttribute('role', 'gridcell');
  row.append(element);
  return { element, text: undefined, marks: undefined, fits: false, unfit: '', title: '', state: '' };
}
