/**
 * A newer file for a table that is there: which rows it adds, changes and does not have, by key columns or by place. What is
 * found becomes one change of the log, all of it or nothing.
 */
import {
  columnAt,
  LIMITS,
  presentPlaces,
  type Column,
  type FileChoices,
  type Refresh,
  type RefreshRow,
  type TableSummary,
} from '@usual-needle/contract';
import { chosenNames, columnOf, FileProblem, KindFinder, readFile, takenColumns } from '@usual-needle/formats';
import type { RowEdit } from '../data/changes.js';
import type { Tables } from '../data/tables.js';
import type { Incoming } from './bring-in.js';
import { inTurns } from './in-turns.js';

/** Rows of each sort that a preview shows. */
const SHOWN = 200;
/** Rows read at a time. */
const BATCH = 5_000;

export interface RefreshPlan {
  readonly edits: readonly RowEdit[];
  /** Only if there are new ones. */
  readonly columns: readonly Column[] | undefined;
  readonly told: Omit<Refresh, 'change'>;
}

export interface RefreshBy {
  /** Names of key columns; without any, the places of rows tell which is which. */
  readonly key: readonly string[];
  readonly gone: 'keep' | 'remove';
}

/** Where each of the table's columns is in the file; -1 for one that is not there. New ones come after those of the table. */
interface Places {
  readonly ofTable: readonly number[];
  readonly added: readonly number[];
}

function placesOf(table: TableSummary, names: readonly string[], choices: FileChoices): Places {
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

const keyOf = (cells: readonly string[], places: readonly number[]): string =>
  places.length === 1 ? (cells[places[0]] ?? '') : JSON.stringify(places.map((i) => cells[i] ?? ''));

const isBlankKey = (cells: readonly string[], places: readonly number[]): boolean =>
  places.every((i) => (cells[i] ?? '').trim() === '');

/** Whether a row has the cells that it would have; blank ones at its end are not kept. */
function same(a: readonly string[], b: readonly string[]): boolean {
  for (let i = 0; i < Math.max(a.length, b.length); i++) if ((a[i] ?? '') !== (b[i] ?? '')) return false;
  return true;
}

/** Of the table: the ids by key, in order where there is none. @throws FileProblem for keys that tell no row */
async function idsByKey(tables: Tables, table: TableSummary, places: readonly number[]): Promise<Map<string, number>> {
  const ids = new Map<string, number>();
  const twice = new Set<string>();
  let blank = 0;
  for await (const rows of tables.all(table.id, BATCH))
    for (const { id, cells } of rows) {
      if (places.length === 0) ids.set(String(ids.size), id);
      else if (isBlankKey(cells, places)) blank++;
      else if (ids.has(keyOf(cells, places))) twice.add(keyOf(cells, places));
      else ids.set(keyOf(cells, places), id);
    }
  const column = places.map((i) => table.columns[i].name).join(' and ');
  if (twice.size > 0)
    throw new FileProblem(
      `${twice.size} ${twice.size === 1 ? 'value' : 'values'} of ${column} stand in several rows of ${table.name}, such as “${[...twice][0]}”: it cannot tell its rows apart. Choose another key.`,
    );
  if (blank > 0)
    throw new FileProblem(
      `${blank} rows of ${table.name} have nothing in ${column}, which is to tell them apart. Choose another key.`,
    );
  return ids;
}

/** @throws FileProblem for a file that cannot be read, or keys that tell no row */
export async function planRefresh(
  tables: Tables,
  table: TableSummary,
  { bytes, choices, hints }: Incoming,
  { key, gone }: RefreshBy,
): Promise<RefreshPlan> {
  const file = await readFile(bytes, { choices, hints });
  const keys = key.map((name) => {
    const at = columnAt(table.columns, name);
    if (at < 0) throw new FileProblem(`${table.name} has no column “${name}”.`);
    if (table.columns[at].borrows)
      throw new FileProblem(`“${name}” is borrowed from another table: it cannot tell rows apart here.`);
    return at;
  });
  const names = chosenNames(file.columns, choices);
  const { ofTable, added } = placesOf(table, names, choices);
  for (const i of keys)
    if (ofTable[i] < 0) throw new FileProblem(`The file has no column “${table.columns[i].name}”, which is the key.`);
  const ids = await idsByKey(tables, table, keys);
  const left = new Set(ids.values());
  const finder = new KindFinder(0);
  const seen = new Map<string, number>();
  const edits: RowEdit[] = [];
  const shown: RefreshRow[] = [];
  const counts = { added: 0, changed: 0, gone: 0, unchanged: 0 };
  const count = (
    what: keyof typeof counts,
    before: readonly string[] | null,
    after: readonly string[] | null,
  ): void => {
    counts[what]++;
    if (what !== 'unchanged' && counts[what] <= SHOWN) shown.push({ what, before, after });
    if (edits.length > LIMITS.refreshed)
      throw new FileProblem(
        `More than ${LIMITS.refreshed} rows are added, changed or removed; a refresh takes so many at most. Bring the file in as a new table.`,
      );
  };
  let place = 0;
  for await (const { rows, lines } of inTurns(file.batches)) {
    finder.add(rows.map((row) => added.map((i) => row[i])));
    const incoming = rows.map((row, i) => {
      const filled = ofTable.map((from) => (from < 0 ? '' : row[from]));
      const found = keys.length === 0 ? String(place++) : keyOf(filled, keys);
      if (keys.length > 0) {
        if (isBlankKey(filled, keys))
          throw new FileProblem(`Line ${lines[i]} has nothing in ${key.join(' and ')}, which is the key.`, lines[i]);
        const before = seen.get(found);
        if (before !== undefined)
          throw new FileProblem(
            `Lines ${before} and ${lines[i]} have the same ${key.join(' and ')}: “${found}”.`,
            lines[i],
          );
        seen.set(found, lines[i]);
      }
      return { row, id: ids.get(found) };
    });
    const known = incoming.flatMap(({ id }) => (id === undefined ? [] : [id]));
    const before = new Map((await tables.rowsOf(table.id, known)).map((row) => [row.id, row]));
    for (const { row, id } of incoming) {
      const old = id === undefined ? undefined : before.get(id);
      const kept = ofTable.map((from, i) => (from < 0 ? (old?.cells[i] ?? '') : row[from]));
      const cells = [...kept, ...added.map((from) => row[from])];
      if (!old) {
        edits.push({ cells });
        count('added', null, cells);
        continue;
      }
      left.delete(old.id);
      if (same(old.cells, cells)) count('unchanged', null, null);
      else {
        edits.push({ id: old.id, version: old.version, cells });
        count('changed', old.cells, cells);
      }
    }
  }
  const goneIds = [...left];
  for (let at = 0; at < goneIds.length; at += BATCH)
    for (const { id, version, cells } of await tables.rowsOf(table.id, goneIds.slice(at, at + BATCH))) {
      if (gone === 'remove') edits.push({ id, version, cells: null });
      count('gone', cells, null);
    }
  const guesses = finder.done();
  const fresh = added.map((i, at) => columnOf(names[i], guesses[at] ?? { kind: 'text', problems: [] }, choices, i));
  const columns = [...table.columns, ...fresh];
  if (columns.length > LIMITS.columns) throw new FileProblem(`A table takes ${LIMITS.columns} columns at most.`);
  // As the columns stand in the table, without those that were removed.
  const places = presentPlaces(columns);
  const cut = (cells: readonly string[] | null): string[] | null => cells && places.map((i) => cells[i] ?? '');
  return {
    edits,
    columns: fresh.length > 0 ? columns : undefined,
    told: {
      ...counts,
      columns: places.map((i) => columns[i]),
      missing: table.columns
        .filter(({ removed, borrows }, i) => ofTable[i] < 0 && !removed && !borrows)
        .map(({ name }) => name),
      rows: shown.map(({ what, before, after }) => ({ what, before: cut(before), after: cut(after) })),
    },
  };
}
