/** JSON (RFC 8259) and NDJSON: each row by the names of its columns, cells as they are stored, with its marks. */
import { shownText } from '@usual-needle/engine';
import type { Column, TakenRow } from '@usual-needle/contract';
import type { Taken, Writer } from '../taken.js';

/** An object with its keys in order, whatever they are called: `__proto__` is a name, too. */
function objectText(entries: readonly (readonly [string, string])[]): string {
  return `{${entries.map(([name, text]) => `${JSON.stringify(name)}:${JSON.stringify(text)}`).join()}}`;
}

/**
 * `{"row", "cells", "shown", "marks"}`: `shown` has the cells whose shown text is another than what is stored, which marks are
 * about; a mark is column, start, end (UTF-16) and keyword.
 */
function rowText(columns: readonly Column[], { id, cells, marks }: TakenRow): string {
  const stored = columns.map((column, i) => [column.name, cells[i]] as const);
  if (!marks) return `{"row":${id},"cells":${objectText(stored)}}`;
  const shown = columns.flatMap((column, i) => {
    const text = shownText(cells[i], column);
    return text === cells[i] ? [] : [[column.name, text] as const];
  });
  const named = marks.map(([column, ...mark]) => [columns[column].name, ...mark]);
  const other = shown.length > 0 ? `,"shown":${objectText(shown)}` : '';
  return `{"row":${id},"cells":${objectText(stored)}${other},"marks":${JSON.stringify(named)}}`;
}

/** Writes what comes before the rows: counts, and the change that they are of. */
function factsText({ name, columns: _, longest: _longest, widths: _widths, ...facts }: Taken): string {
  return JSON.stringify({ ...(name !== undefined && { name }), ...facts }).slice(1, -1);
}

/** Writes one object: the facts, the columns, and the rows under `list`. It is not whole without its end. */
export const writeJson: Writer = async function* (taken, rows) {
  const facts = factsText(taken);
  yield `{${facts === '' ? '' : `${facts},`}"columns":${JSON.stringify(taken.columns)},"list":[`;
  let first = true;
  for await (const some of rows) {
    if (some.length === 0) continue;
    yield `${first ? '\n' : ',\n'}${some.map((row) => rowText(taken.columns, row)).join(',\n')}`;
    first = false;
  }
  yield first ? ']}\n' : '\n]}\n';
};

/** Writes a line for each row. */
export const writeNdjson: Writer = async function* ({ columns }, rows) {
  for await (const some of rows) yield some.map((row) => `${rowText(columns, row)}\n`).join('');
};
