import { LENIENT, type FileChoices } from '@usual-needle/contract';
import { tidyingOf, type Look } from '@usual-needle/formats';

/** The choices for one column of a file. */
export type ChosenColumn = NonNullable<FileChoices['columns']>[number];

/**
 * The choices as they are sent with a file: what was found by looking through all of it goes along, so that it is read as it
 * was shown.
 */
export function sentChoices(look: Look, choices: FileChoices): FileChoices {
  const { format, delimiter, encoding, header, sheet } = look.found;
  const columns = look.columns.map(({ column, name, taken }, i) => ({
    ...(taken ? {} : { take: false }),
    // A name that was chosen is sent though it is the file's: what was chosen at an earlier refresh does not count then.
    ...((column.name !== name || choices.columns?.[i]?.name !== undefined) && { name: column.name }),
    kind: column.kind,
    ...(column.dateOrder && { dateOrder: column.dateOrder }),
    ...(column.decimal && { decimal: column.decimal }),
    ...tidyingOf(choices.columns?.[i]),
  }));
  const sent = { ...LENIENT, format, delimiter, encoding, header, sheet, ...choices, columns };
  // What was not found is not said.
  return JSON.parse(JSON.stringify(sent)) as FileChoices;
}
