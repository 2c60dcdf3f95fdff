import { Directive, effect, ElementRef, inject } from '@angular/core';
import { DrawnRows } from './drawn-rows';
import type { GridRow } from './grid-row';
import { type CellsLook, RowCells } from './row-cells';
import { Selection } from './selection';
import { Viewport } from './viewport';

/** Draws the rows on show into its element, by hand, as `RowCells` does their cells: all of them may change at each keystroke. */
@Directive({ selector: '[unRowElements]' })
export class RowElements {
  constructor() {
    const [drawn, viewport, selection] = [inject(DrawnRows), inject(Viewport), inject(Selection)];
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    const elements: RowElement[] = [];
    effect(() => {
      const rows = drawn.rows();
      const look = { columns: viewport.layout(), lead: drawn.lead() };
      const [active, folded] = [selection.column(), viewport.folded()];
      while (elements.length > rows.length) elements.pop()!.element.remove();
      rows.forEach((row, i) => {
        const cells: CellsLook = { ...look, active: row.at ? active : -1, from: row.from, to: row.to };
        (elements[i] ??= new RowElement(host)).draw(row, cells, folded);
      });
    });
  }
}

const UNDRAWN = { index: -1, top: -1, said: '', classes: '' };

/** A row: its place and news for a screen reader, its cells, and where rows are entries of two lines its news to be seen. */
class RowElement {
  readonly element = document.createElement('div');
  private readonly said = document.createElement('span');
  private readonly cells: RowCells;
  private note: HTMLElement | undefined;
  private drawn: Pick<GridRow, 'index' | 'top' | 'said'> & { readonly classes: string } = UNDRAWN;

  constructor(host: HTMLElement) {
    this.element.setAttribute('role', 'row');
    this.said.className = 'unseen';
    this.said.setAttribute('role', 'rowheader');
    this.said.setAttribute('aria-colindex', '1');
    this.element.append(this.said);
    this.cells = new RowCells(this.element);
    host.append(this.element);
  }

  draw(row: GridRow, look: CellsLook, folded: boolean): void {
    const { element, drawn } = this;
    const { index, top, said } = row;
    const classes = [
      'row',
      row.match ? 'match' : '',
      row.at ? 'at' : '',
      row.noteKind === 'new' || row.noteKind === 'leaving' ? row.noteKind : '',
    ].join(' ');
    if (drawn.classes !== classes) element.className = classes;
    if (drawn.index !== index) element.setAttribute('aria-rowindex', String(index + 2));
    if (drawn.top !== top) element.style.top = `${top}px`;
    if (drawn.said !== said) this.said.textContent = said;
    this.drawn = { index, top, said, classes };
    this.cells.draw(row.content, look);
    this.tell(folded ? row : undefined);
  }

  private tell(row: GridRow | undefined): void {
    if (!row?.note) {
      this.note?.remove();
      this.note = undefined;
      return;
    }
    if (!this.note) {
      this.note = document.createElement('span');
      this.note.setAttribute('aria-hidden', 'true');
      this.said.after(this.note);
    }
    this.note.className = `note ${row.noteKind}`;
    this.note.textContent = row.note;
  }
}
