import { Directive, effect, ElementRef, inject } from '@angular/core';
import { DrawnRows } from './drawn-rows';
import type { GridRow } from './grid-row';
import { type CellsLook, RowCells } from './row-cells';
import { Viewport } from './viewport';

/** Draws what stays in view of the rows on show into its element, by hand: their numbers, and when scrolled aside their first cells. */
@Directive({ selector: '[unPinElements]' })
export class PinElements {
  constructor() {
    const [drawn, viewport] = [inject(DrawnRows), inject(Viewport)];
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    const elements: PinElement[] = [];
    effect(() => {
      const rows = drawn.rows();
      const first = viewport.aside() ? drawn.firstCell() : undefined;
      while (elements.length > rows.length) elements.pop()!.element.remove();
      rows.forEach((row, i) => (elements[i] ??= new PinElement(host)).draw(row, first));
    });
  }
}

class PinElement {
  readonly element = document.createElement('div');
  private readonly place = document.createTextNode('');
  private first: { readonly element: HTMLElement; readonly cells: RowCells } | undefined;
  private drawn: { readonly index: number; readonly top: number; readonly match: boolean } | undefined;

  constructor(host: HTMLElement) {
    this.element.title = 'Opens the record';
    const place = document.createElement('span');
    place.className = 'place code';
    place.append(this.place);
    this.element.append(place);
    host.append(this.element);
  }

  /** @param look of the first cell; undefined where it is not drawn */
  draw(row: GridRow, look: CellsLook | undefined): void {
    const { element, drawn } = this;
    const { index, top, match } = row;
    if (drawn?.match !== match) element.className = match ? 'pin match' : 'pin';
    if (drawn?.top !== top) element.style.top = `${top}px`;
    if (drawn?.index !== index) element.dataset['index'] = String(index);
    if (this.place.data !== row.place) this.place.data = row.place;
    this.drawn = { index, top, match };
    if (!look) {
      this.first?.element.remove();
      this.first = undefined;
      return;
    }
    if (!this.first) {
      const made = document.createElement('span');
      made.className = 'first';
      element.append(made);
      this.first = { element: made, cells: new RowCells(made) };
    }
    this.first.cells.draw(row.content, look);
  }
}
