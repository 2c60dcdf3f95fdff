import { computed, inject, Injectable } from '@angular/core';
import { counted, plural, rowsCounted } from '../../services/numbers';
import { Selection } from '../grid/selection';
import { Answers } from '../state/answers';
import { SheetStore } from '../state/sheet-store';
import { Edits } from './edits';

/** The words at the foot of the sheet on rows that change: what is new, what waits, what is out of its place, what is selected. */
@Injectable()
export class KeepStatus {
  private readonly answers = inject(Answers);
  private readonly edits = inject(Edits);
  private readonly selection = inject(Selection);
  private readonly store = inject(SheetStore);

  /** Rows that others added or made match since something was typed. */
  readonly fresh = computed(() => {
    const fresh = this.answers.lately.fresh();
    const count = (this.answers.answer()?.fresh ?? []).filter((id) => fresh.get(id)?.isNew).length;
    return count > 0 ? `${counted(count)} new since you typed` : '';
  });
  /** Edits that the server does not have yet. */
  readonly waiting = computed(() => {
    const count = this.edits.waiting().length;
    if (count === 0 || !this.edits.away()) return '';
    return `${plural(count, 'edit')} ${count === 1 ? 'waits' : 'wait'} for the server`;
  });
  /** Rows that stay where they were edited, and what lets them go. */
  readonly misplaced = computed(() => {
    const count = this.answers.answer()?.misplaced ?? 0;
    if (count === 0) return undefined;
    if (this.store.sort().length === 0)
      return { words: `${rowsCounted(count)} ${count === 1 ? 'stays' : 'stay'}, though not a match`, does: 'Let go' };
    return {
      words: `${rowsCounted(count)} ${count === 1 ? 'is out of its place' : 'are out of their places'}`,
      does: 'Sort again',
    };
  });
  /** The selected block, where it is more than one cell. */
  readonly selected = computed(() => {
    const span = this.selection.span();
    if (!span || !this.selection.isMany()) return '';
    if (this.selection.byRow()) return `${rowsCounted(this.selection.rows().length)} selected`;
    const [rows, columns] = [this.selection.rows().length, span.right - span.left + 1];
    return `${rowsCounted(rows)} × ${plural(columns, 'column')}`;
  });
}
