import { afterNextRender, effect, Injectable, inject, Injector, untracked } from '@angular/core';
import { Keeper } from '../keep/keeper';
import { Answers } from '../state/answers';
import { Selection } from './selection';
import { Viewport } from './viewport';

/** Where the same question is answered anew, what was in view stays in view, and the cell gone to is the same cell. */
@Injectable()
export class Holding {
  private readonly answers = inject(Answers);
  private readonly keeper = inject(Keeper);
  private readonly selection = inject(Selection);
  private readonly viewport = inject(Viewport);
  private readonly injector = inject(Injector);

  /** @param grid which takes the focus where a row was just added, and goes to it once the list is as long as it is to be */
  hold(grid: { focus(): void; moveTo(place: number): void }): void {
    let before = new Map<number, number>();
    this.answers.anchors = () => {
      const ids = this.anchors();
      const places = [Math.floor(this.viewport.first()), this.selection.at() ?? -1];
      before = new Map(ids.flatMap((id, i) => (i < places.length ? [[id, places[i]] as const] : [])));
      return ids;
    };
    effect(
      () => {
        const placed = this.answers.placed();
        if (!placed) return;
        untracked(() => {
          const goal = placed.get(this.keeper.goal() ?? -1);
          if (goal === undefined || goal === null) return this.holdView(placed, before);
          this.selection.goTo(goal, this.keeper.firstOwn());
          afterNextRender(() => grid.moveTo(goal), { injector: this.injector });
          grid.focus();
        });
      },
      { injector: this.injector },
    );
  }

  /** Rows that the view hangs on: the first one in view, and the one gone to; and one that was just added. */
  private anchors(): number[] {
    const first = this.answers.rowAt(Math.floor(this.viewport.first()));
    const at = this.selection.at();
    const gone = at === undefined ? undefined : this.answers.rowAt(at);
    return [first, gone].flatMap((row) => row?.id ?? []).concat(this.keeper.goal() ?? []);
  }

  private holdView(places: ReadonlyMap<number, number | null>, before: ReadonlyMap<number, number>): void {
    const moved = (id: number | undefined): number => {
      const [from, to] = [before.get(id ?? -1), places.get(id ?? -1)];
      return from === undefined || to === undefined || to === null ? 0 : to - from;
    };
    const [first, gone = first] = [...before.keys()];
    const by = moved(gone);
    if (by !== 0) {
      this.selection.shift(by);
      this.keeper.shift(by);
    }
    // At the very top one stays at the top, and sees what comes there.
    const down = moved(first);
    if (down === 0 || this.viewport.offset() === 0) return;
    // Once the list is as long as it is to be.
    afterNextRender(() => this.viewport.down(down), { injector: this.injector });
  }
}
