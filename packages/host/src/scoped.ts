/**
 * A question as a scope allows it. A column outside of the scope has no name here, so whoever asks for it is told what is
 * told of a name that never was; and it is not searched at all.
 */
import { isInSet, type Column, type ColumnSet, type Scope, type WireQuestion } from '@usual-needle/contract';
import { columnNumbers, questionByName, type ColumnSpec, type Question } from '@usual-needle/engine';

/** A name that no column has: names with a NUL are refused where they come in. */
const NO_NAME = '\0';

/** An action that is not in the scope was asked for. */
export class OutOfScope extends Error {}

/** The columns, those outside of a set without their names; numbered as in the table. */
export function columnsIn(columns: readonly ColumnSpec[], set: ColumnSet): readonly ColumnSpec[] {
  if (set === 'every column' && !columns.some(isRemoved)) return columns;
  return columns.map((column) => (isThere(column, set) ? column : { name: NO_NAME, kind: column.kind, formerly: [] }));
}

function isRemoved(column: ColumnSpec): boolean {
  return (column as Partial<Column>).removed === true;
}

/** Tells whether a column is in a set; one that was removed is in none. */
export function isThere(column: ColumnSpec, set: ColumnSet): boolean {
  return !isRemoved(column) && isInSet(set, column.name);
}

/** @returns undefined if all of them are */
function numbersIn(columns: readonly ColumnSpec[], ...sets: readonly ColumnSet[]): number[] | undefined {
  if (columns.every((column) => sets.every((set) => isThere(column, set)))) return undefined;
  return columns.flatMap((column, i) => (sets.every((set) => isThere(column, set)) ? [i] : []));
}

function pickersIn(columns: readonly ColumnSpec[], pickers: NonNullable<WireQuestion['pickers']>): Question['pickers'] {
  return questionByName(columns, { threaded: [], pickers }).pickers;
}

/** The question that has all rows for its answer that exist within a scope; undefined where every row does. */
export function everyRowIn(columns: readonly ColumnSpec[], scope: Scope): Question | undefined {
  return scope.locked ? questionIn(columns, scope, { threaded: [] }) : undefined;
}

/**
 * @throws UnknownColumn for a column that the scope does not have for what it is asked to do
 * @throws OutOfScope for a flip that is not allowed
 */
export function questionIn(columns: readonly ColumnSpec[], scope: Scope, wire: WireQuestion): Question {
  if (wire.flip && !scope.actions.includes('flip')) throw new OutOfScope('This box is not to be flipped.');
  const { pickers = [], sort = [] } = wire;
  const { locked } = scope;
  const named = {
    threaded: wire.everyColumn
      ? columns.flatMap((column, i) => (isThere(column, scope.searchable) ? [i] : []))
      : columnNumbers(columnsIn(columns, scope.searchable), wire.threaded),
    pickers: [
      ...(pickers.length > 0 ? pickersIn(columnsIn(columns, scope.narrowable), pickers) : []),
      // Behind those that were asked for, whose numbers the answer tells.
      ...(locked ? pickersIn(columnsIn(columns, 'every column'), locked.pickers) : []),
    ],
    sort: sort.length > 0 ? questionByName(columnsIn(columns, scope.sortable), { threaded: [], sort }).sort : [],
  };
  const question = questionByName(columns, { ...wire, threaded: [], pickers: [], sort: [] });
  const visible = numbersIn(columns, scope.visible, scope.searchable);
  const strands = locked?.strands && questionByName(columnsIn(columns, 'every column'), locked.strands);
  return {
    ...question,
    ...named,
    ...(visible && { visible }),
    ...(strands && { locked: strands }),
    ...(locked?.noRow && { noRow: true }),
  };
}
