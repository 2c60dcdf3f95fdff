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
  /** What has become of it lately, and what sort of news that is; empty for none. */
  readonly note: string;
  readonly noteKind: RowNoteKind | '';
  /** First and last column of the selected block; -1 if it is not in it. */
  readonly from: number;
  readonly to: number;
  /** What a screen reader calls it. */
  readonly said: string;
}
