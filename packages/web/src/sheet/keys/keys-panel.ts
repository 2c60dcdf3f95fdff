import { ChangeDetectionStrategy, Component, type ElementRef, viewChild } from '@angular/core';

const KEYS: readonly (readonly [keys: string, does: string])[] = [
  ['/', 'to the box, with its text selected'],
  ['Esc', 'clears the box; again, leaves it for the rows'],
  ['Enter, Shift+Enter', 'in the box: next and previous match'],
  ['Alt+Down', 'adds a strand'],
  ['Alt+F', 'flips to the rows left out, and back'],
  ['Arrows, Home, End, Page Up, Page Down', 'move in the rows'],
  ['Ctrl+Home, Ctrl+End', 'first and last row'],
  ['Space', 'opens the record, and closes it'],
  ['F2, Enter, or typing', 'open the cell gone to; Enter and Tab write it and go on, Esc leaves it'],
  ['Alt+Enter', 'breaks the line in a cell'],
  ['Shift and arrows', 'select a block of cells'],
  ['Ctrl and a click, Ctrl+Space', 'select a row more, or let it go; arrows then go on to others, Esc ends it'],
  ['Ctrl+A', 'in the rows: selects all on show'],
  ['Ctrl+C, Ctrl+V, Ctrl+D, Delete', 'copy, paste, fill down, and blank the block'],
  ['Ctrl+Delete', 'removes the rows'],
  ['Ctrl+Z, Ctrl+Shift+Z', 'undo and redo, of the box or of the rows, whichever was last'],
  ['?', 'these keys'],
];

/** The keys of the sheet. */
@Component({
  selector: 'un-keys-panel',
  template: `
    <dialog #dialog aria-labelledby="keys" (click)="dialog.close()">
      <h2 id="keys">Keys</h2>
      <dl>
        @for (key of keys; track key[0]) {
          <dt>{{ key[0] }}</dt>
          <dd>{{ key[1] }}</dd>
        }
      </dl>
      <p>
        While the server is away, edits wait in this browser and are written once it is back. What is not saved of a box
        is kept here, too.
      </p>
      <button type="button" (click)="dialog.close()">Close</button>
    </dialog>
  `,
  styles: `
    dialog {
      padding: 20px 26px;
      color: var(--ink);
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 10px;
    }
    dialog::backdrop {
      background: rgb(28 29 32 / 0.35);
    }
    h2 {
      font-size: 17px;
    }
    dl {
      display: grid;
      grid-template-columns: auto 1fr;
      gap: 7px 22px;
      margin: 14px 0;
    }
    p {
      max-width: 62ch;
      margin: 0 0 14px;
      color: var(--soft-ink);
    }
    dt {
      font-weight: 650;
    }
    dd {
      margin: 0;
      color: var(--soft-ink);
    }
    button {
      padding: 5px 14px;
      background: none;
      border: 1px solid var(--hairline);
      border-radius: 6px;
    }
    @media (max-width: 600px) {
      dl {
        grid-template-columns: 1fr;
        gap: 0;
      }
      dd {
        margin-bottom: 8px;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class KeysPanel {
  protected readonly keys = KEYS;
  private readonly dialog = viewChild.required<ElementRef<HTMLDialogElement>>('dialog');

  open(): void {
    this.dialog().nativeElement.showModal();
  }
}
