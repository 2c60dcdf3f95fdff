import type { RowNoteKind, RowOver } from './row-notes';

/** A row as it is drawn. */
export interface GridRow {
  readonly index: number;
  readonly top: number;
  readonly place: string;
  /** Where the trace has it; -1 if it has not been fetched. */
  readonly position: number;
  readonly match: boolean;
  /** The row gone to last. */
  readonly at: boolean;
  readonly content: RowOver | undefined;
  /** The news of the row, and of what sort it is; empty for none. */
  readonly note: string;
  readonly noteKind: RowNoteKind | '';
  /** First and last column of the selected block; -1 if it is not in it. */
  readonly from: number;
  readonly to: number;
  /** The name that a screen reader says. */
  readonly said: string;
}
