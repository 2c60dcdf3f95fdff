/** The columns of a file, made of what was found of them and what was chosen for them. */
import type { Column, FileChoices } from '@usual-needle/contract';
import type { KindGuess } from '@usual-needle/engine';
import { FileProblem } from './problem.js';

/** Places of the columns that are taken. @throws FileProblem if none is */
export function takenColumns(count: number, choices: FileChoices): number[] {
  const taken = Array.from({ length: count }, (_, i) => i).filter((i) => choices.columns?.[i]?.take !== false);
  if (taken.length === 0) throw new FileProblem('Every column is left out.');
  return taken;
}

/** Names of the columns by what was chosen for them. @throws FileProblem if two are the same */
export function chosenNames(names: readonly string[], choices: FileChoices): string[] {
  const chosen = names.map((name, i) => choices.columns?.[i]?.name?.trim() || name);
  const taken = takenColumns(names.length, choices).map((i) => chosen[i]);
  const twice = taken.find((name, i) => taken.indexOf(name) !== i);
  if (twice !== undefined) throw new FileProblem(`Two columns are named “${twice}”.`);
  return chosen;
}

/** A column as it will be: of the kind that was chosen for it, or that was found. @param i its place in the file */
export function columnOf(name: string, found: KindGuess, choices: FileChoices, i: number): Column {
  const choice = choices.columns?.[i];
  const { kind, dateOrder, decimal } = choice?.kind === undefined ? found : { ...choice, kind: choice.kind };
  return {
    name,
    kind,
    ...(kind === 'date' && dateOrder && { dateOrder }),
    ...(kind === 'number' && decimal && { decimal }),
    ...(kind === 'date' && { shown: { date: 'd MMM yyyy' as const } }),
  };
}
