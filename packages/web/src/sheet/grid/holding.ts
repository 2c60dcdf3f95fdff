import { afterNextRender, effect, Injectable, inject, Injector, untracked } from '@angular/core';
import { Remarks } from '../../services/remarks';
import { CellsGone } from '../keep/cells-gone';
import { Keeper } from '../keep/keeper';
import { Answers } from '../state/answers';
import { Selection } from './selection';
import { Viewport } from './viewport';

/** Where the same question is answered anew, what was in view stays in view, and the cell gone to is the same cell, or is none. */
@Injectable()
export class HeldPlaces {
  private readonly answers = inject(Answers);
  private readonly gone = inject(CellsGone);
  private readonly keeper = inject(Keeper);
  private readonly remarks = inject(Remarks);
  private readonly selection = inject(Selection);
  private readonly viewport = inject(Viewport);
  private readonly injector = inject(Injector);

  /** @param grid goes to a row that was just added, once the list is as long as it is to be */
  hold(grid: { wentTo(place: number): void }): void {
    let first: { readonly id: number; readonly place: number } | undefined;
    this.answers.anchors = () => {
      const place = Math.floor(this.viewport.first());
      const id = this.answers.rowAt(place)?.id;
      first = id === undefined ? undefined : { id, place };
      const held = [id, this.keeper.cell()?.id, this.keeper.goal()].flatMap((one) => one ?? []);
      return [...new Set([...this.selection.anchors(), ...held])];
    };
    effect(
      () => {
        const placed = this.answers.placed();
        if (!placed) return;
        untracked(() => {
          const caret = this.selection.caret();
          // Who has removed it knows, and is offered to undo it.
          if (this.selection.placed(placed) && caret && !this.gone.isOwn(caret.id))
            this.remarks.say(this.gone.words(caret.id));
          this.keeper.placed(placed);
          const goal = placed.get(this.keeper.goal() ?? -1);
          if (typeof goal === 'number') return grid.wentTo(goal);
          this.holdView(placed, first);
        });
      },
      { injector: this.injector },
    );
  }

  private holdView(
    places: ReadonlyMap<number, number | null>,
    first: { readonly id: number; readonly place: number } | undefined,
  ): void {
    const to = first && places.get(first.id);
    // At the very top one stays at the top, and sees what comes there.
    if (!first || typeof to !== 'number' || to === first.place || this.viewport.offset() === 0) return;
    // Once the list is as long as it is to be.
    afterNextRender(() => this.viewport.down(to - first.place), { injector: this.injector });
  }
}
