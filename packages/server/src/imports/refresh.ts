/**
 * A newer file for a table that is there: which rows it adds, changes and does not have, by key columns or by place. What is
 * found becomes one change of the log, all of it or nothing.
 *
 * Cell by cell three things are compared: what the last file said (`data/said.ts`), what this one says, and what stands here. A cell
 * that the file did not change stays as it is here; one that was changed on both sides is a clash.
 */
import {
  LIMITS,
  presentPlaces,
  type Column,
  type Refresh,
  type RefreshRow,
  type TableSummary,
  type FileChoices,
  type Tidied,
} from '@usual-needle/contract';
import { chosenNames, columnOf, FileProblem, KindFinder, readFile, tidiedBy, withTidied } from '@usual-needle/formats';
import type { PlannedEdit } from '../data/changes.js';
import { cellsSize, cutBySize } from '../data/logged-rows.js';
import { readSaid, type Said } from '../data/said.js';
import type { Tables } from '../data/tables.js';
import type { IncomingFile } from './bring-in.js';
import { inTurns } from './in-turns.js';
import { Keys } from './refresh-keys.js';
import { keyPlaces, placesOf, remembered } from './refresh-columns.js';
import { Merging, type RefreshBy } from './refresh-merge.js';

/** Rows of each sort that a preview shows. */
const SHOWN = 200;
/** Rows read at a time. */
const BATCH = 2_000;
/** Letters of one preview: few rows may be long. */
const SHOWN_LETTERS = 2 * 1024 * 1024;

export { ClashesRefused, type RefreshBy } from './refresh-merge.js';

export interface RefreshPlan {
  /** The tidying of the file. */
  readonly tidied: Tidied | undefined;
  readonly edits: readonly PlannedEdit[];
  /** Only if there are new ones. */
  readonly columns: readonly Column[] | undefined;
  readonly told: Omit<Refresh, 'change'>;
}

/** A row, and what a refresh does to it. */
interface Planned extends RefreshRow {
  readonly edit?: PlannedEdit;
}

function same(a: readonly string[], b: readonly string[]): boolean {
  for (let i = 0; i < Math.max(a.length, b.length); i++) if ((a[i] ?? '') !== (b[i] ?? '')) return false;
  return true;
}

const sameSaid = (a: Said | null, b: Said | null): boolean => JSON.stringify(a) === JSON.stringify(b);

/** The rows planned so far, by the keys of the rows, so that a row whose key comes again can be taken back. */
class PlannedRows {
  private readonly byKey = new Map<string, Planned>();
  private letters = 0;
  unchanged = 0;

  put(key: string, planned: Planned): void {
    this.byKey.set(key, planned);
    this.letters += cellsSize(planned.before) + cellsSize(planned.after);
    if (this.byKey.size > LIMITS.refreshed)
      throw new FileProblem(
        `More than ${LIMITS.refreshed} rows are added, changed or removed; a refresh takes so many at most. Bring the file in as a new table.`,
      );
    if (this.letters > LIMITS.refreshedText)
      throw new FileProblem(
        `The rows that are added, changed or removed have more than ${LIMITS.refreshedText / 1024 / 1024} million letters; a refresh takes so many at most. Bring the file in as a new table.`,
      );
  }

  takeBack(key: string): void {
    if (!this.byKey.delete(key)) this.unchanged--;
  }

  get all(): readonly Planned[] {
    return [...this.byKey.values()];
  }
}

/** The first rows of each sort, as far as they are not too long together. */
function firstOf(all: readonly Planned[]): RefreshRow[] {
  const counts = { added: 0, changed: 0, gone: 0 };
  let letters = 0;
  return all.filter(({ what, before, after }) => {
    if (counts[what]++ >= SHOWN || letters > SHOWN_LETTERS) return false;
    letters += cellsSize(before) + cellsSize(after);
    return true;
  });
}

/** @throws FileProblem for a file that cannot be read, or for keys that do not tell rows where that is to be refused; ClashesRefused */
export async function planRefresh(
  tables: Tables,
  table: TableSummary,
  { bytes, choices, hints }: IncomingFile,
  by: RefreshBy,
): Promise<RefreshPlan> {
  const before = table.refreshedBy?.tidied;
  const tidying = (columns: readonly string[]): FileChoices => withTidied(before, columns, choices);
  const file = await readFile(bytes, { choices, hints, tidying });
  const tidied = tidiedBy(file.columns, tidying(file.columns), before);
  const places = keyPlaces(table, by.key);
  const names = remembered(table, file.columns, chosenNames(file.columns, choices), choices);
  const { ofTable, added } = placesOf(table, names, choices);
  for (const i of places)
    if (ofTable[i] < 0) throw new FileProblem(`The file has no column “${table.columns[i].name}”, which is the key.`);
  const keys = new Keys(table, places, by.unclear);
  for await (const rows of tables.all(table.id, BATCH)) for (const row of rows) keys.here(row);
  if (places.length > 0) for await (const cells of tables.removedHere(table.id)) keys.wasRemoved(cells);
  let removed = 0;
  const merging = new Merging(table, ofTable, added, by);
  const finder = new KindFinder(0);
  const plan = new PlannedRows();
  for await (const { rows, lines } of inTurns(file.batches)) {
    finder.add(rows.map((row) => added.map((i) => row[i])));
    const incoming = rows.flatMap((row, i) => {
      const filled = ofTable.map((from) => (from < 0 ? '' : row[from]));
      const found = keys.incoming(filled, lines[i], (key) => plan.takeBack(key));
      return found ? [{ row, ...found }] : [];
    });
    const known = incoming.flatMap(({ id }) => (id === undefined ? [] : [id]));
    const before = new Map((await tables.rowsOf(table.id, known)).map((row) => [row.id, row]));
    for (const { row, id, key } of incoming) {
      if (keys.isDropped(key)) continue;
      const old = id === undefined ? undefined : before.get(id);
      if (!old) {
        if (keys.isRemoved(key)) {
          removed++;
          if (by.removed === 'stay') continue;
        }
        const cells = merging.fresh(row);
        plan.put(key, { what: 'added', before: null, after: cells, edit: { cells } });
        continue;
      }
      const { cells, said } = merging.merged(old, row, keys.toldBy(key));
      const edit = { id: old.id, version: old.version, cells, said };
      const isSame = same(old.cells, cells);
      if (isSame && sameSaid(readSaid(old.said), said)) plan.unchanged++;
      else plan.put(key, { what: 'changed', before: old.cells, after: isSame ? null : cells, edit });
    }
  }
  keys.done(by.preview);
  for (const ids of cutBySize(keys.gone, () => 1, BATCH))
    for (const { id, version, cells } of await tables.rowsOf(table.id, ids)) {
      const edit: PlannedEdit | undefined = by.gone === 'remove' ? { id, version, cells: null } : undefined;
      plan.put(`gone ${id}`, { what: 'gone', before: cells, after: null, ...(edit && { edit }) });
    }
  merging.done();
  const guesses = finder.done();
  const fresh = added.map((i, at) => columnOf(names[i], guesses[at] ?? { kind: 'text', problems: [] }, choices, i));
  const columns = [...table.columns, ...fresh];
  if (columns.length > LIMITS.columns) throw new FileProblem(`A table takes ${LIMITS.columns} columns at most.`);
  // As the columns stand in the table, without those that were removed.
  const present = presentPlaces(columns);
  const cutTo = (cells: readonly string[] | null): string[] | null => cells && present.map((i) => cells[i] ?? '');
  // Of a row that only the file's word of has changed there is nothing to show.
  const all = plan.all;
  const shown = all.filter(({ what, after }) => what !== 'changed' || after !== null);
  const count = (what: RefreshRow['what']): number => shown.filter((row) => row.what === what).length;
  const grown = table.rows + count('added') - (by.gone === 'remove' ? count('gone') : 0);
  if (grown > LIMITS.rows)
    throw new FileProblem(`The table would have ${grown} rows; it takes ${LIMITS.rows} at most.`);
  return {
    edits: all.flatMap(({ edit }) => edit ?? []),
    tidied,
    columns: fresh.length > 0 ? columns : undefined,
    told: {
      added: count('added'),
      changed: count('changed'),
      gone: count('gone'),
      unchanged: plan.unchanged + all.length - shown.length,
      columns: present.map((i) => columns[i]),
      missing: table.columns
        .filter(({ removed, borrows }, i) => ofTable[i] < 0 && !removed && !borrows)
        .map(({ name }) => name),
      matched: ofTable.flatMap((from, i) =>
        from >= 0 && file.columns[from] !== table.columns[i].name
          ? [{ file: file.columns[from], table: table.columns[i].name }]
          : [],
      ),
      fresh: fresh.map(({ name }) => name),
      mended: merging.mended,
      removed,
      clashing: merging.clashing,
      clashes: merging.clashes,
      unclear: keys.unclear((cells) => cutTo(cells)!),
      rows: firstOf(shown).map(({ what, before, after }) => ({ what, before: cutTo(before), after: cutTo(after) })),
    },
  };
}
