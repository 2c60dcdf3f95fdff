/** The tidying of a table's files, which is kept with the table: its next file is tidied in the same way, or all of it would have changed. */
import type { FileChoices, Tidied } from '@usual-needle/contract';
import { isTidied, tidyingOf } from './tidy.js';

/**
 * Gives what is tidied in a file, by the names of its columns; undefined where nothing is.
 * @param before what was remembered, which stays so of columns that this file does not have
 */
export function tidiedBy(
  names: readonly string[],
  { spaces, repeated, columns = [] }: FileChoices,
  before?: Tidied,
): Tidied | undefined {
  const tidied = names.flatMap((file, i) => (isTidied(columns[i]) ? [{ file, ...tidyingOf(columns[i]) }] : []));
  const others = (before?.columns ?? []).filter(({ file }) => !names.includes(file));
  if (spaces !== 'trim' && repeated !== 'leave out' && tidied.length + others.length === 0) return undefined;
  return { spaces, repeated, columns: [...tidied, ...others] };
}

/** Choices for a newer file: where they say nothing, it is tidied as the one before. @param names of its columns */
export function withTidied(tidied: Tidied | undefined, names: readonly string[], choices: FileChoices): FileChoices {
  if (!tidied) return choices;
  const { spaces, repeated } = tidied;
  const columns = names.map((name, i) => ({
    ...tidyingOf(tidied.columns.find(({ file }) => file === name)),
    ...choices.columns?.[i],
  }));
  return { ...(spaces && { spaces }), ...(repeated && { repeated }), ...choices, columns };
}
