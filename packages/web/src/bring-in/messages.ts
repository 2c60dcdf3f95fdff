/** The messages between the page and the worker that looks through a file. */
import type { FileChoices, MarkTuple } from '@usual-needle/contract';
import type { Look, LookRow, Showing } from '@usual-needle/formats';

export type LookAsked =
  | {
      readonly do: 'look';
      readonly file: Blob;
      readonly name: string;
      readonly choices: FileChoices;
      readonly turn: number;
    }
  | { readonly do: 'show'; readonly showing: Showing }
  /** A box tried on the first rows. */
  | { readonly do: 'try'; readonly text: string };

/** Rows that a tried box finds, with the marks in their cells; columns by place. */
export interface Tried {
  readonly text: string;
  readonly found: readonly { readonly line: number; readonly marks: readonly MarkTuple[] }[];
  /** The words on what cannot be read of what was typed; empty if all of it can. */
  readonly problem: string;
}

export type LookSaid =
  | {
      readonly is: 'look';
      readonly look: Look;
      readonly rows: readonly LookRow[];
      readonly showing: Showing;
      readonly turn: number;
    }
  | { readonly is: 'tried'; readonly tried: Tried }
  | { readonly is: 'failed'; readonly message: string };
