/** The question that `usual-needle watch` puts to a table, and the columns that it writes of the rows that answer. */
import { presentPlaces, type Box, type Column, type TableSummary, type WireQuestion } from '@usual-needle/contract';
import { questionOf, shownOf, type FindOptions } from './options.js';

/** A question and the columns that are written of the rows that answer it. */
export interface Watched {
  readonly columns: readonly Column[];
  readonly question: WireQuestion;
  readonly shown: readonly string[];
}

export function watchedOf(
  { columns: told, stored: columns = told }: TableSummary,
  box: Box,
  text: string | undefined,
  show: string | undefined,
): Watched {
  const options: FindOptions = { strand: [], pick: [], kind: [], out: 'ndjson', ...(show !== undefined && { show }) };
  const present = presentPlaces(columns).map((at) => columns[at]);
  // Marked in place, a row that does not match is on show, too.
  const effect = box.effect === 'mark in place' ? 'show only matches' : box.effect;
  return {
    columns,
    question: { ...questionOf(present, text, options, box), effect, sort: [] },
    shown: shownOf(present, options, box),
  };
}

/** True if a column is searched, narrowed by or shown that has no cells in the log: they are another table's. */
export function borrows({ columns, question, shown }: Watched): boolean {
  const used = new Set([...question.threaded, ...(question.pickers ?? []).map(({ column }) => column), ...shown]);
  return columns.some(({ name, borrows: from, removed }) => from && !removed && used.has(name));
}

/** Finds out which rows have begun to match. */
export interface Beginnings {
  /** Names of the columns that are written. */
  readonly shown: readonly string[];
  /** Cells of the rows that have begun to match since the last time. */
  since(): AsyncGenerator<readonly string[]>;
}
