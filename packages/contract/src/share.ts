/**
 * Sharing of a box: who may open it, and what they may see and do there. The scope of its readers is worked out here, by the one
 * function that the server enforces and the share page shows.
 */
import type { FromSchema } from 'json-schema-to-ts';
import type { Box, WireQuestion } from './box.js';
import { BOX_DEFAULTS } from './box-defaults.js';
import { columnAt, presentPlaces, type Column } from './column.js';
import { LARGEST_NUMBER, LIMITS } from './limits.js';
import { isInSet, READER_ACTIONS, type Action, type Scope } from './scope.js';
import type { StoredBox, TableSummary } from './table.js';

/** An origin, as browsers send it (RFC 6454). */
export const SITE = '^https?://[a-z0-9.\\-\\[\\]:]+$';

const names = {
  type: 'array',
  maxItems: LIMITS.columns,
  items: { type: 'string', minLength: 1, maxLength: LIMITS.name },
} as const;

export const shareSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['everyone', 'people', 'may', 'columns', 'searched', 'editable', 'locked'],
  properties: {
    /** True to open it for everyone who is signed in. */
    everyone: { type: 'boolean' },
    /** Ids of people that it is opened for by name. */
    people: { type: 'array', maxItems: 1000, items: { type: 'integer', minimum: 1, maximum: LARGEST_NUMBER } },
    may: { type: 'array', maxItems: READER_ACTIONS.length, items: { enum: READER_ACTIONS } },
    /** Names of the columns that readers see. A column that comes later is not among them. */
    columns: names,
    /** Names of columns that are searched though they are not seen: so it can be found out what is in them. */
    searched: names,
    /** Names of the columns that readers may edit, where editing is open. */
    editable: names,
    /** Names of the columns whose pickers are locked: rows outside of those do not exist for readers. */
    locked: names,
    /** True to lock the box's *within* strands, too: rows outside of those do not exist for readers either. */
    within: { type: 'boolean' },
    /** Origins of other sites whose pages may fetch the rows by the box's address. */
    sites: { type: 'array', maxItems: 20, items: { type: 'string', maxLength: 200, pattern: SITE } },
  },
} as const;
export type Share = FromSchema<typeof shareSchema>;

/** Sharing as the share page has it: with the box's link, and how often it was opened. */
export interface BoxShare {
  readonly share: Share;
  /** True if it has a link. The link itself is told only when it is made. */
  readonly link: boolean;
  /** True if a column that was locked is not there any more: then readers have no row. */
  readonly lostLock: boolean;
  readonly opened: number;
  readonly openedAt: string | null;
}

export const suggestionsQuerySchema = {
  type: 'object',
  additionalProperties: false,
  required: ['q'],
  properties: { q: { type: 'string', maxLength: 200 } },
} as const;
export type SuggestionsQuery = FromSchema<typeof suggestionsQuerySchema>;

/** The text that was typed, values that hold it, and how many rows have each; as OpenSearch Suggestions have it. */
export type Suggestions = readonly [typed: string, values: readonly string[], told: readonly string[]];

/** A box as a reader gets it: as much of the box and of its table as their scope has. */
export interface OpenedBox {
  readonly stored: StoredBox;
  readonly table: TableSummary;
  readonly may: readonly Action[];
  readonly editable: readonly string[];
}

/** Sharing of a box that nobody has been given yet: its own columns are shown, and those it narrows by; readers may narrow, sort and flip. */
export function unshared(box: Box, columns: readonly Column[]): Share {
  const shown = box.columns?.map(({ name }) => name) ?? presentPlaces(columns).map((at) => columns[at].name);
  return {
    everyone: false,
    people: [],
    may: ['narrow', 'sort', 'flip'],
    columns: [...new Set([...shown, ...(box.pickers ?? []).map(({ column }) => column)])].slice(0, LIMITS.columns),
    searched: [],
    editable: [],
    locked: [],
  };
}

/** True if a picker asks for something. */
function asks(picker: NonNullable<WireQuestion['pickers']>[number]): boolean {
  if ('values' in picker) return picker.values.length > 0;
  if ('days' in picker) return picker.days.from !== '' || picker.days.to !== '';
  if ('numbers' in picker) return picker.numbers.from !== null || picker.numbers.to !== null;
  if ('answer' in picker) return picker.answer !== 'either';
  return 'unfit' in picker || picker.letters.length > 0;
}

/** True for a strand that can be locked: one that only leaves rows, and asks something. */
function isLockable({ verb, text }: NonNullable<Box['strands']>[number]): boolean {
  return verb === 'within' && text.trim() !== '';
}

/** Gives how a box reads what is typed. */
function settingsOf(box: Box): Pick<WireQuestion, 'reading' | 'need' | 'where' | 'case' | 'accents'> {
  const { reading, need, where, case: letters, accents } = { ...BOX_DEFAULTS, ...box };
  return { reading, need, where, case: letters, accents };
}

/** Names of the columns that a box looks in itself, whoever asks. */
function ownThreaded(box: Box, columns: readonly Column[]): string[] {
  const places = box.everyColumn
    ? presentPlaces(columns)
    : (box.threaded ?? []).map((of) => columnAt(columns, of)).filter((at) => at >= 0);
  return places.map((at) => columns[at].name);
}

/**
 * The scope of a box's readers.
 * A picker on a column that they do not see is always locked: they could neither open it nor be told of it.
 * @param lostLock true if a column that was locked is not there any more
 */
export function readerScope(box: Box, columns: readonly Column[], share: Share, lostLock = false): Scope {
  const present = (list: readonly string[]): string[] => [
    ...new Set(list.flatMap((name) => columns[columnAt(columns, name)]?.name ?? [])),
  ];
  const visible = present(share.columns);
  const may = new Set<Action>(share.may);
  const open = [...visible, ...present(share.searched).filter((name) => !visible.includes(name))];
  const threaded = box.everyColumn ? open : present(box.threaded ?? []).filter((name) => open.includes(name));
  const pickers = (box.pickers ?? []).map((picker) => ({ ...picker, column: present([picker.column])[0] }));
  const lockedColumns = present(share.locked);
  const locked = pickers.filter(
    (picker) =>
      picker.column !== undefined &&
      asks(picker) &&
      (lockedColumns.includes(picker.column) || !visible.includes(picker.column)),
  );
  const isLocked = (name: string): boolean => locked.some(({ column }) => column === name);
  const strands = share.within ? (box.strands ?? []).filter(isLockable) : [];
  const isMissing = (name: string): boolean => present([name]).length === 0;
  const wasLocked = (name: string): boolean => share.locked.includes(name) || !share.columns.includes(name);
  // A lock whose column was removed is not opened by that.
  const noRow =
    lostLock ||
    (box.pickers ?? []).some((picker) => isMissing(picker.column) && asks(picker) && wasLocked(picker.column)) ||
    (strands.length > 0 && !box.everyColumn && (box.threaded ?? []).some(isMissing));
  const hasLock = locked.length > 0 || strands.length > 0 || noRow;
  // Rows outside cannot be told apart yet from those inside, in the history.
  const closed: readonly Action[] = hasLock ? ['see history'] : [];
  return {
    visible,
    searchable: may.has('thread') ? open : threaded,
    narrowable: pickers.flatMap(({ column }) =>
      column !== undefined && visible.includes(column) && !isLocked(column) ? [column] : [],
    ),
    sortable: may.has('sort')
      ? visible
      : present((box.sort ?? []).map(({ column }) => column)).filter((name) => visible.includes(name)),
    editable: may.has('edit') ? present(share.editable).filter((name) => visible.includes(name)) : [],
    actions: share.may.filter((action) => !closed.includes(action)),
    ...(hasLock && {
      locked: {
        pickers: locked,
        ...(noRow && { noRow }),
        ...(strands.length > 0 && { strands: { ...settingsOf(box), threaded: ownThreaded(box, columns), strands } }),
      },
    }),
  };
}

/** A box as its readers are told it: without what it says of columns that they do not have. */
export function readerBox(box: Box, columns: readonly Column[], scope: Scope): Box {
  const name = (of: string): string | undefined => columns[columnAt(columns, of)]?.name;
  const seen = (of: string): boolean => isInSet(scope.visible, name(of) ?? '');
  const plain = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}:]/gu, '');
  const hidden = columns
    .filter((column) => !isInSet(scope.visible, column.name))
    .flatMap(({ name: is, formerly = [] }) => [is, ...formerly]);
  /** A text may name columns, as `worth:5` does; one that names a hidden one is not theirs to read. */
  const namesHidden = (text: string): boolean => hidden.some((one) => plain(text).includes(`${plain(one)}:`));
  const told: Box = {
    ...box,
    strands: box.strands
      ?.filter((strand) => !(scope.locked?.strands && isLockable(strand)))
      .map((strand) => (namesHidden(strand.text) ? { ...strand, text: '' } : strand)),
  };
  // The name of the table is not theirs.
  delete told.table;
  const shown = box.columns?.filter((column) => seen(column.name));
  return {
    ...told,
    everyColumn: false,
    threaded: (scope.searchable as readonly string[]).filter(
      (one) => seen(one) && (box.everyColumn || (box.threaded ?? []).some((other) => name(other) === one)),
    ),
    pickers: (box.pickers ?? []).filter(({ column }) => isInSet(scope.narrowable, name(column) ?? '')),
    sort: (box.sort ?? []).filter(({ column }) => seen(column)),
    ...(shown && shown.length > 0 ? { columns: shown } : { columns: undefined }),
  };
}

/**
 * A question as a reader may ask it: the parts that are not open to them are the box's own, whatever was sent.
 * @param told the box as `readerBox` gives it
 */
export function readerQuestion(
  asked: WireQuestion,
  box: Box,
  told: Box,
  columns: readonly Column[],
  scope: Scope,
): WireQuestion {
  const may = new Set(scope.actions);
  const own = { ...BOX_DEFAULTS, ...box };
  const threaded = scope.searchable as readonly string[];
  const theirs = ownThreaded(box, columns).filter((one) => threaded.includes(one));
  const hidden = theirs.filter((one) => !isInSet(scope.visible, one));
  const lines = told.strands ?? [];
  const typed = asked.strands ?? [];
  const strands = may.has('change readings')
    ? typed
    : typed.slice(0, Math.max(1, lines.length)).map(({ text }, i) => ({
        ...(lines[i] ?? { verb: 'find' as const }),
        text,
      }));
  const settings = may.has('change readings') ? asked : own;
  const { reading, need, where, case: letters, accents } = settings;
  return {
    // What is searched though it is not seen is searched always: its name is not known to who asks.
    threaded: may.has('thread')
      ? [...(asked.everyColumn ? (scope.visible as readonly string[]) : asked.threaded), ...hidden]
      : theirs,
    ...{ reading, need, where, case: letters, accents, strands },
    pickers: may.has('narrow') ? asked.pickers : told.pickers,
    effect: may.has('change the effect') ? asked.effect : own.effect,
    nothingTyped: own.nothingTyped,
    flip: may.has('flip') ? asked.flip : own.flip,
    sort: may.has('sort') ? asked.sort : told.sort,
  };
}
