/** The things that can be done to a table that is there: edits, undoing, columns, values. Each is one change, written by `committing.ts`. */
import { and, eq, sql } from 'drizzle-orm';
import {
  columnAt,
  LIMITS,
  type Change,
  type ChangeKind,
  type Clash,
  type Column,
  type BoxNews,
  type EditRequest,
  type RefreshedBy,
  type RowChange,
  type UndoRequest,
  type ValueChange,
} from '@usual-needle/contract';
import { Committing, type Transaction } from './committing.js';
import type { Database } from './database.js';
import { doneUnder, editAsked, forgetKeys, keepKey, undoAsked } from './edit-keys.js';
import { askedEdit, planEdit, planUndo, type RowNow } from './edits.js';
import { learnSaid } from './learn-said.js';
import { loggedRows } from './logged-rows.js';
import { CannotEdit, CannotUndo, CellClash, RowClash } from './refusals.js';
import { afterUndo, type Said } from './said.js';
import { changes, rows, tables } from './schema.js';
import { changeOf } from './tables.js';
import type { Versions } from './versions.js';

/** An edit of one row: its new cells, or that it is removed; or, without an id, a new row. */
export type PlannedEdit =
  | {
      readonly id: number;
      readonly version: number;
      readonly cells: readonly string[] | null;
      /** The row as the file says that the edit comes from, where that is not what its cells will say. */
      readonly said?: Said | null;
    }
  | { readonly cells: readonly string[] };

export interface EditOptions {
  readonly who?: string | null;
  /** The columns from then on, if they change, too. */
  readonly columns?: readonly Column[];
  /** Number of the change that the table has to be at. */
  readonly on?: number;
  /** The way in which a refresh was done, for the next one. */
  readonly refreshedBy?: RefreshedBy;
  /** The rest of what is to be written with it, or not at all. @param number of the change */
  readonly also?: (transaction: Transaction, number: number) => Promise<void>;
}

/** The outcome of an edit: its change, unless it changes nothing. */
export interface Made {
  readonly change: Change | undefined;
  /** Number of that change, or of the one that the table was at then. */
  readonly at: number;
}

/** The name of who undoes, and how. */
export interface UndoOptions {
  readonly who?: string | null;
  readonly part?: UndoRequest['part'];
  readonly key?: string;
}

const borrowed = (column: string): string =>
  `“${column}” is borrowed: its cells are edited in the table that they are in.`;

function tooManyRows(): string {
  return `A table has ${LIMITS.rows.toLocaleString('en')} rows at most.`;
}

/** Columns as they were; those that came since are removed, but keep their places: rows may hold cells of theirs. */
function columnsBack(before: readonly Column[], after: readonly Column[]): Column[] {
  return [...before, ...after.slice(before.length).map((column) => ({ ...column, removed: true }))];
}

export class Changes {
  private readonly committing: Committing;

  constructor(private readonly database: Database) {
    this.committing = new Committing(database);
  }

  /** The name of this server among those on the same database. */
  get name(): string {
    return this.committing.name;
  }

  /** Tells whoever follows the database that a table is not what it was. */
  async tell(tableId: number): Promise<void> {
    await this.committing.tell(tableId);
  }

  /** The same of a box on a table. */
  async tellBox(tableId: number, box: BoxNews): Promise<void> {
    await this.committing.tell(tableId, undefined, box);
  }

  private get db(): Database['db'] {
    return this.database.db;
  }

  /**
   * Adds, changes and removes rows: one change, all of it or nothing.
   * @throws RowClash if rows were changed since
   * @returns undefined if there is no such table
   */
  edit(
    tableId: number,
    kind: ChangeKind,
    edits: readonly PlannedEdit[],
    { who, columns, on, refreshedBy, also }: EditOptions = {},
  ): Promise<Change | undefined> {
    return this.db.transaction(async (transaction) => {
      const table = await this.committing.locked(transaction, tableId);
      if (!table) return undefined;
      // Where rows are told apart by others, too, none of them may have changed.
      if (on !== undefined && on !== table.lastChange) throw new RowClash([]);
      const ids = edits.flatMap((edit) => ('id' in edit ? [edit.id] : []));
      if (new Set(ids).size < ids.length) throw new CannotEdit('A row is named twice.');
      const added = edits.length - ids.length;
      if (table.rowCount + added > LIMITS.rows) throw new CannotEdit(tooManyRows());
      const before = await this.committing.rowsOf(transaction, tableId, ids);
      const clashing = edits.filter((edit) => 'id' in edit && before.get(edit.id)?.version !== edit.version);
      if (clashing.length > 0) throw new RowClash(clashing.flatMap((edit) => ('id' in edit ? [edit.id] : [])));
      let next = table.nextRow;
      const rowChanges = edits.map((edit): RowChange =>
        'id' in edit
          ? { id: edit.id, before: before.get(edit.id)!.cells, after: edit.cells }
          : { id: next++, before: null, after: edit.cells },
      );
      const said = new Map(edits.flatMap((edit) => ('id' in edit ? [[edit.id, edit.said ?? null] as const] : [])));
      const saidAfter = kind === 'refreshed' ? ({ id }: RowChange): Said | null => said.get(id) ?? null : undefined;
      if (refreshedBy) await transaction.update(tables).set({ refreshedBy }).where(eq(tables.id, tableId));
      await also?.(transaction, table.lastChange + 1);
      return this.committing.commit(transaction, table, { kind, who, rowChanges, before, saidAfter, columns }, next);
    });
  }

  /**
   * Does an edit by hand. What was done under the same key is not done again.
   * @throws CellClash, CannotEdit
   * @returns undefined if there is no such table
   */
  async editCells(tableId: number, request: EditRequest): Promise<Made | undefined> {
    return this.db.transaction(async (transaction) => {
      const table = await this.committing.locked(transaction, tableId);
      if (!table) return undefined;
      const key = request.key;
      const asked = editAsked(request);
      const done = await doneUnder(transaction, tableId, key, asked);
      if (done) {
        const change = done.made ? await this.found(transaction, tableId, done.number) : undefined;
        return { change, at: done.number };
      }
      const edit = askedEdit(request);
      const places = request.columns.map((name) => {
        const place = columnAt(table.columns, name);
        if (place < 0) throw new CannotEdit(`There is no column “${name}” any more.`);
        if (table.columns[place].borrows) throw new CannotEdit(borrowed(name));
        return place;
      });
      if (new Set(places).size < places.length) throw new CannotEdit('A column is named twice.');
      const added = edit.added.length;
      if (table.rowCount + added > LIMITS.rows) throw new CannotEdit(tooManyRows());
      const now = await this.committing.rowsOf(transaction, tableId, [...edit.rows.keys()]);
      const plan = planEdit(edit, places, table.columns.length, now, table.nextRow);
      if (plan.clashes.length > 0) throw new CellClash(await this.named(transaction, tableId, plan.clashes, now));
      for (const { after } of plan.rowChanges)
        if (after && after.reduce((sum, cell) => sum + cell.length, 0) > LIMITS.row)
          throw new CannotEdit(`A row holds ${LIMITS.row.toLocaleString('en')} letters at most.`);
      const { rowChanges } = plan;
      if (rowChanges.length === 0) {
        await keepKey(transaction, tableId, key, asked, { number: table.lastChange, made: false });
        return { change: undefined, at: table.lastChange };
      }
      const { kind, who } = request;
      const change = await this.committing.commit(
        transaction,
        table,
        { kind, who, key, rowChanges, before: now },
        table.nextRow + added,
      );
      await keepKey(transaction, tableId, key, asked, { number: change.number, made: true });
      return { change, at: change.number };
    });
  }

  private async found(transaction: Transaction, tableId: number, number: number): Promise<Change | undefined> {
    const [found] = await transaction
      .select()
      .from(changes)
      .where(and(eq(changes.tableId, tableId), eq(changes.number, number)));
    return found && changeOf(found, await loggedRows(transaction, found));
  }

  /** Readies what is to be known of a table before it is refreshed. */
  async readyToRefresh(tableId: number): Promise<void> {
    await learnSaid(this.database, tableId);
  }

  /** Forgets what was remembered for what may be sent again. */
  async tidy(): Promise<void> {
    await forgetKeys(this.db);
  }

  /** Names, for each clash, who made the change that stands in the way, and when. */
  private async named(
    transaction: Transaction,
    tableId: number,
    clashes: readonly Clash[],
    now: ReadonlyMap<number, RowNow>,
  ): Promise<Clash[]> {
    const numbers = [...new Set(clashes.flatMap(({ id }) => now.get(id)?.version ?? []))];
    const found = await transaction
      .select({ number: changes.number, who: changes.who, at: changes.at })
      .from(changes)
      .where(and(eq(changes.tableId, tableId), sql`${changes.number} = any(${sql.param(numbers)}::int[])`));
    const by = new Map(found.map(({ number, who, at }) => [number, { who, at: new Date(at).toISOString() }]));
    return clashes.map((clash) => ({ ...clash, ...by.get(now.get(clash.id)?.version ?? -1) }));
  }

  /**
   * Undoes a change by a new one that does its inverse, cell by cell.
   * @throws CannotUndo where later changes stand on it, unless a part of it is enough
   * @returns undefined if there is no such change
   */
  undo(tableId: number, number: number, { who, part = false, key }: UndoOptions = {}): Promise<Change | undefined> {
    return this.db.transaction(async (transaction) => {
      const table = await this.committing.locked(transaction, tableId);
      const [change] = await transaction
        .select()
        .from(changes)
        .where(and(eq(changes.tableId, tableId), eq(changes.number, number)));
      if (!table || !change) return undefined;
      const asked = undoAsked(number, part);
      const before = await doneUnder(transaction, tableId, key, asked);
      if (before) return this.found(transaction, tableId, before.number);
      const undone = await loggedRows(transaction, change);
      if (!undone) throw new CannotUndo('A bring-in is undone by deleting the table.');
      const { columns } = change;
      if (columns && JSON.stringify(table.columns) !== JSON.stringify(columns.after))
        throw new CannotUndo('The columns were changed since.');
      const now = await this.committing.rowsOf(
        transaction,
        tableId,
        undone.map(({ id }) => id),
      );
      const { rowChanges, stuck } = planUndo(undone, now);
      if (stuck.length > 0 && !(part && rowChanges.length > 0)) {
        const rest = rowChanges.length > 0;
        throw new CannotUndo(await this.whatStands(transaction, table.id, number, stuck), rest);
      }
      const rowsUndone = new Map(undone.map((row) => [row.id, row]));
      const made = await this.committing.commit(transaction, table, {
        kind: 'undone',
        who,
        key,
        undoes: number,
        rowChanges,
        before: now,
        saidAfter: (back) => afterUndo(rowsUndone.get(back.id)!, change.kind, now.get(back.id), back),
        // In part, what rows hold in new columns stays, and so do they.
        columns: stuck.length > 0 || !columns ? undefined : columnsBack(columns.before, columns.after),
      });
      await keepKey(transaction, tableId, key, asked, { number: made.number, made: true });
      return made;
    });
  }

  /** Why a change cannot be undone: how many of its rows, and which later changes stand on them. */
  private async whatStands(
    transaction: Transaction,
    tableId: number,
    number: number,
    stuck: readonly number[],
  ): Promise<string> {
    const now = await this.committing.rowsOf(transaction, tableId, stuck);
    const later = [...new Set([...now.values()].map(({ version }) => version))]
      .filter((one) => one > number)
      .sort((a, b) => a - b);
    const of = `${stuck.length.toLocaleString('en')} of its rows`;
    const gone = stuck.length - now.size;
    if (later.length === 0) return `${of} ${stuck.length === 1 ? 'was' : 'were'} changed or removed since.`;
    const named = later.slice(0, 5).join(', ') + (later.length > 5 ? ' and more' : '');
    const removed = gone > 0 ? `, ${gone.toLocaleString('en')} of them removed` : '';
    return `${of} ${stuck.length === 1 ? 'was' : 'were'} changed since${removed}, by ${later.length === 1 ? 'change' : 'changes'} ${named}.`;
  }

  /** @returns undefined if the table is not there, or its columns not in one of those versions any more */
  changeColumns(
    tableId: number,
    versions: Versions,
    edit: (columns: readonly Column[]) => readonly Column[],
    who?: string,
  ): Promise<Change | undefined> {
    return this.db.transaction(async (transaction) => {
      const table = await this.committing.locked(transaction, tableId);
      if (!table || (versions !== 'any' && !versions.includes(table.version))) return undefined;
      return this.committing.commit(transaction, table, {
        kind: 'columns',
        who,
        rowChanges: [],
        before: new Map(),
        columns: edit(table.columns),
      });
    });
  }

  /**
   * Makes a value of a column another one, in all rows and in the column's own order: renamed, or merged with one that is there.
   * @throws CannotEdit for more rows than one change takes
   * @returns undefined if no row has it
   */
  changeValue(tableId: number, { column, from, to, who }: ValueChange): Promise<Change | undefined> {
    return this.db.transaction(async (transaction) => {
      const table = await this.committing.locked(transaction, tableId);
      const place = table ? columnAt(table.columns, column) : -1;
      if (!table || place < 0) return undefined;
      if (table.columns[place].borrows) throw new CannotEdit(borrowed(column));
      const found = await transaction
        .select()
        .from(rows)
        .where(and(eq(rows.tableId, tableId), sql`(${rows.cells}::json ->> ${place}::int) = ${from}`))
        .limit(LIMITS.refreshed + 1);
      if (found.length === 0) return undefined;
      if (found.length > LIMITS.refreshed)
        throw new CannotEdit(
          `More than ${LIMITS.refreshed.toLocaleString('en')} rows have it; one change takes so many.`,
        );
      const rowChanges = found.map(({ id, cells }) => ({
        id,
        before: cells,
        after: cells.map((cell, i) => (i === place ? to : cell)),
      }));
      const { order } = table.columns[place];
      const kept = order && [...new Set(order.map((value) => (value === from ? to : value)))];
      const columns = kept && table.columns.map((one, i) => (i === place ? { ...one, order: kept } : one));
      const before = new Map(found.map((row) => [row.id, row]));
      return this.committing.commit(transaction, table, { kind: 'edited', who, rowChanges, before, columns });
    });
  }
}
