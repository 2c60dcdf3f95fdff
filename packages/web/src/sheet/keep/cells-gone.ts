import { inject, Injectable } from '@angular/core';
import { Answers } from '../state/answers';

/** Rows that are remembered as removed. */
const MOST = 5_000;

/** Rows and columns that are not there any more, and who removed them: told when a key would have meant them. */
@Injectable()
export class CellsGone {
  private readonly answers = inject(Answers);
  private readonly rows = new Map<
    number,
    { readonly who: string | null; readonly called: string; readonly own: boolean }
  >();

  /** Rows were removed. @param own by the person at this sheet, who has been told so */
  removed(ids: readonly number[], who: string | null, own: boolean): void {
    for (const id of ids)
      this.rows.set(id, { who, own, called: this.answers.rowOf(id)?.cells[0]?.trim().slice(0, 40) ?? '' });
    for (const id of this.rows.keys()) {
      if (this.rows.size <= MOST) break;
      this.rows.delete(id);
    }
  }

  isOwn(id: number | undefined): boolean {
    return this.rows.get(id ?? -1)?.own ?? false;
  }

  /** Why no key means a row any more. */
  words(id: number | undefined): string {
    const removed = this.rows.get(id ?? -1);
    if (!removed)
      return 'The row you were on does not match any more and is not in the list. The arrow keys go on from there.';
    const called = removed.called === '' ? 'The row you were on' : `The row you were on, “${removed.called}”,`;
    return `${called} was removed${removed.who === null ? '' : ` by ${removed.who}`}. The arrow keys go on from there.`;
  }
}
