/** The columns of a newer file matched to those of the table: by name, by a name that it had, or as it was said at an earlier refresh. */
import { columnAt, type FileChoices, type TableSummary } from '@usual-needle/contract';
import { FileProblem, takenColumns } from '@usual-needle/formats';

/** Where each of the table's columns is in the file; -1 for one that is not there. New ones come after those of the table. */
export interface Places {
  readonly ofTable: readonly number[];
  readonly added: readonly number[];
}

/**
 * Names of the file's columns, with those that were called otherwise at the last refresh called so again.
 * @param chosen as they are chosen this time, which goes before what was remembered
 */
export function remembered(
  table: TableSummary,
  inFile: readonly string[],
  chosen: readonly string[],
  choices: FileChoices,
): string[] {
  const before = new Map((table.refreshedBy?.columns ?? []).map(({ file, table: name }) => [file, name]));
  const isTaken = (name: string): boolean =>
    chosen.some((one) => columnAt(table.columns, one) === columnAt(table.columns, name));
  return chosen.map((name, i) => {
    const isFree = choices.columns?.[i]?.name === undefined && name === inFile[i];
    const was = isFree && columnAt(table.columns, name) < 0 ? before.get(name) : undefined;
    return was !== undefined && columnAt(table.columns, was) >= 0 && !isTaken(was) ? was : name;
  });
}

export function placesOf(table: TableSummary, names: readonly string[], choices: FileChoices): Places {
  const ofTable = table.columns.map(() => -1);
  const added: number[] = [];
  for (const i of takenColumns(names.length, choices)) {
    const column = columnAt(table.columns, names[i]);
    // What is borrowed comes from elsewhere, whatever a copy that was taken out says.
    if (column >= 0 && table.columns[column].borrows) continue;
    if (column < 0 || ofTable[column] >= 0) added.push(i);
    else ofTable[column] = i;
  }
  return { ofTable, added };
}

/** Places of the key columns. @throws FileProblem for one that the table does not have, or that is borrowed */
export function keyPlaces(table: TableSummary, key: readonly string[]): number[] {
  return key.map((name) => {
    const at = columnAt(table.columns, name);
    if (at < 0) throw new FileProblem(`${table.name} has no column “${name}”.`);
    if (table.columns[at].borrows)
      throw new FileProblem(`“${name}” is borrowed from another table: it cannot tell rows apart here.`);
    return at;
  });
}
