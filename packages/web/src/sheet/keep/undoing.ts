import { computed, inject, Injectable } from '@angular/core';
import { SheetStore } from '../state/sheet-store';
import { Edits } from './edits';

/** The step that an undo, or a redo, would do next. */
export interface Next {
  readonly of: 'box' | 'rows';
  readonly words: string;
}

/** The one way back for both: changes of the box, and edits of rows, whichever was done last. */
@Injectable()
export class Undoing {
  private readonly store = inject(SheetStore);
  private readonly edits = inject(Edits);

  readonly undoes = computed(() =>
    this.later(this.store.past().at(-1), this.edits.waiting().at(-1) ?? this.edits.done().at(-1)),
  );
  readonly redoes = computed(() => this.later(this.store.future().at(-1), this.edits.undone().at(-1)));

  private later(
    box: { readonly at: number } | undefined,
    rows: { readonly at: number; readonly said: string } | undefined,
  ): Next | undefined {
    if (rows && (!box || rows.at > box.at)) return { of: 'rows', words: rows.said };
    return box && { of: 'box', words: 'the last change of the box' };
  }

  undo(): void {
    if (this.undoes()?.of === 'rows') void this.edits.undo();
    else this.store.undo();
  }

  redo(): void {
    if (this.redoes()?.of === 'rows') void this.edits.redo();
    else this.store.redo();
  }
}
