/** Rows that are taken out, as every writer gets them, and what a writer makes of them. */
import type { OpenedBox, TakenFacts, TakenRow, Writing } from '@usual-needle/contract';

/** The things that a writer is told besides the rows. */
export interface Taken extends Pick<TakenFacts, 'columns'>, Partial<Omit<TakenFacts, 'columns'>> {
  /** The table's name, or the box's. */
  readonly name?: string;
  /** Widths of the columns on screen, in CSS pixels. */
  readonly widths?: readonly number[];
  /** The words of a page: the box's sentence, what was typed, who took it out, and when, as it is to be read. */
  readonly sentence?: string;
  readonly typed?: string;
  readonly who?: string;
  readonly at?: string;
  /** The page that rows are put into, and what it is told, of a take-away page. */
  readonly template?: string;
  readonly opened?: OpenedBox;
}

/** Writes rows in one form, some at a time. What it gives is UTF-8 text, or bytes. */
export type Writer = (
  taken: Taken,
  rows: AsyncIterable<readonly TakenRow[]>,
  writing?: Writing,
) => AsyncIterable<string | Uint8Array>;
