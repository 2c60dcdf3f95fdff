import { Directive, effect, ElementRef, inject, input } from '@angular/core';
import type { CellPart } from './cell-parts';

/** Draws the parts of a text into its element, the marked ones with their stitches, and nothing between them. */
@Directive({ selector: '[unParts]' })
export class DrawnParts {
  readonly unParts = input.required<readonly CellPart[]>();

  constructor() {
    const element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    effect(() => fill(element, this.unParts()));
  }
}

/** Puts parts into an element, using again the nodes that are there. */
export function fill(cell: HTMLElement, parts: readonly CellPart[]): void {
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
