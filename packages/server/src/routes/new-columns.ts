/** The checks of a column that comes to a table: its name free, room for it, and its place behind all others. */
import { LIMITS, type Column } from '@usual-needle/contract';
import { HttpProblem } from './http-problem.js';

export function isTaken(columns: readonly Column[], name: string): boolean {
  return columns.some((column) => column.name === name && !column.removed);
}

/** A name that none of the columns has. @throws HttpProblem */
export function freeName(columns: readonly Column[], given: string): string {
  const name = given.trim();
  if (name === '') throw new HttpProblem(422, 'A column has to have a name');
  if (isTaken(columns, name))
    throw new HttpProblem(422, 'Two columns cannot have one name', `There is a column “${name}” already.`);
  return name;
}

/** The columns with one more, behind all that are there, wherever those stand. @throws HttpProblem if there are too many */
export function withColumn(columns: readonly Column[], column: Column): Column[] {
  if (columns.length >= LIMITS.columns)
    throw new HttpProblem(422, 'There are too many columns', `A table takes ${LIMITS.columns}, removed ones too.`);
  const place = Math.max(columns.length, ...columns.map((one, i) => (one.place ?? i) + 1));
  return [...columns, { ...column, ...(place > columns.length && { place }) }];
}
