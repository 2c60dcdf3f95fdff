/** What is tidied in a table's files, which is kept with the table: its next file is tidied in the same way, or all of it would have changed. */
import type { FileChoices, Tidied } from '@usual-needle/contract';

/** Gives what is tidied in a file, by the names of its columns; undefined where nothing is. */
export function tidiedBy(
  names: readonly string[],
  { spaces, repeated, columns = [] }: FileChoices,
): Tidied | undefined {
  const tidied = columns.flatMap(({ firstYear, noValue, instead }, i) =>
    i < names.length && (firstYear !== undefined || noValue === 'blank' || (instead && instead.length > 0))
      ? [{ file: names[i], firstYear, noValue, instead }]
      : [],
  );
  if (spaces !== 'trim' && repeated !== 'leave out' && tidied.length === 0) return undefined;
  return { spaces, repeated, columns: tidied };
}

/** Choices for a newer file: where they say nothing, it is tidied as the one before. @param names of its columns */
export function withTidied(tidied: Tidied | undefined, names: readonly string[], choices: FileChoices): FileChoices {
  if (!tidied) return choices;
  const columns = names.map((name, i) => {
    const { firstYear, noValue, instead } = tidied.columns.find(({ file }) => file === name) ?? {};
    // What is not said is not there at all.
    const before = JSON.parse(JSON.stringify({ firstYear, noValue, instead })) as object;
    return { ...before, ...choices.columns?.[i] };
  });
  return {
    ...(tidied.spaces && { spaces: tidied.spaces }),
    ...(tidied.repeated && { repeated: tidied.repeated }),
    ...choices,
    columns,
  };
}
