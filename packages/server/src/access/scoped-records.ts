/**
 * The rows and the log of tables, as routes reach them: there is no reading, editing or undoing without a scope. What a scope does
 * not have is left out of what is read, and refused where it would be written.
 */
import {
  columnAt,
  isInSet,
  type Action,
  type Change,
  type ChangeKind,
  type Column,
  type EditRequest,
  type RowHistoryEntry,
  type Scope,
  type StoredRow,
  type TableSummary,
  type ValueChange,
} from '@usual-needle/contract';
import type { Changes, EditOptions, Made, PlannedEdit, UndoOptions } from '../data/changes.js';
import { CannotEdit } from '../data/refusals.js';
import { columnsThen, rowsThen } from '../data/rows-then.js';
import type { Tables } from '../data/tables.js';
import type { Versions } from '../data/versions.js';
import { NotAllowed } from './not-allowed.js';
import { seenChanges, seenEntries, seesAll } from './seen.js';

/** Changes that are read at once, where the last ones are asked for. */
const LATELY_AT_ONCE = 20;

/** Throws where a scope does not have an action. @throws NotAllowed */
export function mustBeAllowed({ actions }: Scope, ...wanted: readonly Action[]): void {
  for (const action of wanted) if (!actions.includes(action)) throw new NotAllowed(action);
}

export class ScopedRecords {
  constructor(
    private readonly tables: Tables,
    private readonly changes: Changes,
  ) {}

  /** The rows of a table after the row `after`, with all of their cells: whoever sends them leaves out those that are not seen. */
  rows(scope: Scope, { id }: TableSummary, after: number, limit: number): Promise<StoredRow[]> {
    mustBeAllowed(scope, 'take out');
    return this.tables.rows(id, after, limit);
  }

  /** All rows as they were after a change, some at a time, with all of their cells. */
  rowsThen(scope: Scope, { id }: TableSummary, number: number): AsyncGenerator<StoredRow[]> {
    mustBeAllowed(scope, 'take out');
    return rowsThen(this.tables, id, number);
  }

  /** The columns as they were after a change, those that are not seen among them. */
  columnsThen(scope: Scope, table: TableSummary, number: number): Promise<readonly Column[]> {
    mustBeAllowed(scope, 'see history');
    return columnsThen(this.tables, table, number);
  }

  /** The tables without scopes, for who may change all of a table by a newer file. */
  forRefresh(scope: Scope): Tables {
    mustBeAllowed(scope, 'bring in');
    return this.tables;
  }

  /** The log after a change. */
  async log(scope: Scope, { id, columns }: TableSummary, after: number, limit: number): Promise<readonly Change[]> {
    mustBeAllowed(scope, 'see history');
    return seenChanges(await this.tables.changes(id, after, limit), columns, scope);
  }

  /** The log, last first, before a change. */
  async history(
    scope: Scope,
    table: TableSummary,
    before: number | undefined,
    limit: number,
  ): Promise<readonly Change[]> {
    mustBeAllowed(scope, 'see history');
    const found = await this.tables.history(table.id, before, limit);
    return seenChanges(found, table.columns, scope);
  }

  /** The last changes with all of their rows and cells, the last first, for who is told what they did to rows that may leave. */
  async *lately(scope: Scope, { id, change }: TableSummary, limit: number): AsyncGenerator<Change> {
    mustBeAllowed(scope, 'take out');
    const first = Math.max(0, change - limit);
    for (let to = change; to > first; to -= LATELY_AT_ONCE) {
      const some: Change[] = [];
      // Fewer come at once where they are large.
      for (let known = Math.max(first, to - LATELY_AT_ONCE); known < to; known = some[some.length - 1].number) {
        const next = await this.tables.changes(id, known, to - known);
        if (next.length === 0) break;
        some.push(...next);
      }
      yield* some.reverse();
    }
  }

  /** Gives a change, with so many of its rows at most. */
  async change(scope: Scope, { id, columns }: TableSummary, number: number, most: number): Promise<Change | undefined> {
    mustBeAllowed(scope, 'see history');
    const change = await this.tables.changeShown(id, number, most);
    return change && seenChanges([change], columns, scope)[0];
  }

  /** Gives what happened to one row, last first. */
  async rowHistory(
    scope: Scope,
    { id, columns }: TableSummary,
    row: number,
    limit: number,
  ): Promise<readonly RowHistoryEntry[]> {
    mustBeAllowed(scope, 'see history');
    return seenEntries(await this.tables.rowHistory(id, row, limit), columns, scope);
  }

  /** Does an edit by hand. @throws NotAllowed, CannotEdit, CellClash, KeyTaken */
  async edit(scope: Scope, table: TableSummary, request: EditRequest): Promise<Made | undefined> {
    const { changed = [], added = [], removed = [], columns } = request;
    if (changed.length > 0) mustBeAllowed(scope, 'edit');
    if (added.length > 0) mustBeAllowed(scope, 'add');
    if (removed.length > 0) mustBeAllowed(scope, 'remove');
    for (const name of columns) mustBeEditable(scope, table.columns, name);
    return this.changes.editCells(table.id, request);
  }

  /** Undoes a change. @throws NotAllowed, CannotUndo */
  undo(scope: Scope, table: TableSummary, number: number, options: UndoOptions): Promise<Change | undefined> {
    mustBeAllowed(scope, 'see history', 'edit', 'add', 'remove');
    if (!seesAll(scope) || scope.editable !== 'every column') throw new NotAllowed('edit');
    return this.changes.undo(table.id, number, options);
  }

  /** Applies what a newer file has changed. @throws NotAllowed, RowClash */
  refresh(
    scope: Scope,
    table: TableSummary,
    edits: readonly PlannedEdit[],
    options: EditOptions,
  ): Promise<Change | undefined> {
    mustBeAllowed(scope, 'bring in');
    return this.changes.edit(table.id, 'refreshed' satisfies ChangeKind, edits, options);
  }

  /** Changes the columns of a table. @throws NotAllowed */
  changeColumns(
    scope: Scope,
    table: TableSummary,
    versions: Versions,
    edit: (columns: readonly Column[]) => readonly Column[],
    who?: string,
  ): Promise<Change | undefined> {
    mustBeAllowed(scope, 'bring in');
    return this.changes.changeColumns(table.id, versions, edit, who);
  }

  /** Makes a value of a column another one, in all rows. @throws NotAllowed, CannotEdit */
  changeValue(scope: Scope, table: TableSummary, change: ValueChange): Promise<Change | undefined> {
    mustBeAllowed(scope, 'edit', 'bring in');
    mustBeEditable(scope, table.columns, change.column);
    return this.changes.changeValue(table.id, change);
  }
}

/** A column that is not seen is refused in the words for one that never was. */
function mustBeEditable({ visible, editable }: Scope, columns: readonly Column[], name: string): void {
  const present = columns[columnAt(columns, name)]?.name;
  if (present === undefined || isInSet(editable, present)) return;
  if (isInSet(visible, present)) throw new NotAllowed('edit', `“${name}” is not to be edited here.`);
  throw new CannotEdit(`There is no column “${name}” any more.`);
}
