import { computed, Injectable, signal, type WritableSignal } from '@angular/core';
import {
  onTable,
  type Action,
  columnAt,
  EMPTY_BOX,
  type Box,
  type Column,
  type TableSummary,
  type WireSortLevel,
} from '@usual-needle/contract';
import { Subject } from 'rxjs';
import { firstText, type BoxStrand, strandsOf, withFirstText } from '../../common/question';
import { differs, type BoxPicker, same } from './box-change';
import { type HiddenPlace, hidden, type LaidOutColumn, laidOut, shownAgain, shownOf } from './layout';

/** Typing can wait for a pause; what is chosen never does. */
export type BoxChange = 'typed' | 'chosen';

/** A state to go back or forth to. */
interface Step {
  readonly box: Box;
  /** Text of the first strand on the other side of the change, if the change changed it, as a remedy does. */
  readonly text: string | undefined;
  /** When it was made, for telling which of two things was done last. */
  readonly at: number;
}

const NONE: readonly never[] = [];
/** Steps that can be undone. */
const HISTORY = 100;
export const MOST_STRANDS = 16;

/** The actions that change rows. */
const ROW_ACTIONS: readonly Action[] = ['edit', 'add', 'remove'];

/** State of one sheet: a box over a table, what is typed, and the way back. */
@Injectable()
export class SheetStore {
  readonly table = signal<TableSummary | undefined>(undefined);
  readonly box = signal<Box>(EMPTY_BOX);
  /** The box as it is saved: what the address and unsaved changes are measured against. */
  readonly saved = signal<Box>(EMPTY_BOX);
  /** True where the box is only used, not built. */
  readonly readersView = signal(false);
  /** The actions that are open to readers of the box; undefined where all are. */
  readonly readerMay = signal<readonly Action[] | undefined>(undefined);
  /** True where the table is looked at as it was: nothing of it can be changed. */
  readonly earlier = computed(() => this.table()?.now !== undefined);
  /** True where box and table can be changed. */
  readonly changeable = computed(() => !this.readersView() && !this.earlier());
  /** True where the box, the table's columns and its sharing can be changed: by who builds the table. */
  readonly buildable = computed(() => this.changeable() && this.table()?.role !== 'keeps');
  /** Columns that the box names and that the table does not have any more. */
  readonly lacking = signal<readonly string[]>(NONE);
  readonly past = signal<readonly Step[]>([]);
  readonly future = signal<readonly Step[]>([]);
  /** Every change of the box, in the task in which it is made. */
  readonly changes = new Subject<BoxChange>();
  private readonly places = new Map<string, HiddenPlace>();

  /** Names of the columns that readers may edit; of no account where all may be done. */
  readonly readerEdits = signal<readonly string[]>(NONE);
  /** True where rows can be changed: by who keeps the table, or by readers that this was left open to. */
  readonly keepable = computed(
    () => this.changeable() || (this.readerMay() ?? []).some((action) => ROW_ACTIONS.includes(action)),
  );

  /** Tells whether the cells of a column may be edited here. */
  mayEdit(column: string): boolean {
    return !this.readerMay() || (this.may('edit') && this.readerEdits().includes(column));
  }

  /** Tells whether something may be done with the box as it is here. */
  may(action: Action): boolean {
    return this.readerMay()?.includes(action) ?? true;
  }

  readonly strands = computed(() => strandsOf(this.box()));
  /** The box but for what is typed: the same object while only typing goes on. */
  readonly definition = computed(() => this.box(), { equal: differOnlyInText });
  readonly unsaved = computed(() => differs(this.box(), this.saved()));
  // Each by itself, so that a key typed does not draw anew what it leaves alone.
  readonly threaded = computed<readonly string[]>(() => {
    const { everyColumn, threaded } = this.box();
    return everyColumn ? this.allColumns().map(({ name }) => name) : (threaded ?? NONE);
  });
  readonly sort = computed<readonly WireSortLevel[]>(() => this.box().sort ?? NONE);
  readonly pickers = computed<readonly BoxPicker[]>(() => this.box().pickers ?? NONE);
  private readonly columns = computed(() => this.box().columns);
  /** The columns on show, first to last. */
  readonly layout = computed<readonly LaidOutColumn[]>(() => laidOut(this.columns(), this.allColumns()));

  allColumns(): readonly Column[] {
    return this.table()?.columns ?? NONE;
  }

  /** Opens a box on a table. What was typed before it was there stays typed. @param saved as it is saved @param box as it is now */
  open(table: TableSummary, saved: Box, box: Box, lacking: readonly string[] = NONE): void {
    this.lacking.set(lacking);
    const typed = this.table() === undefined ? firstText(this.box()) : '';
    this.saved.set(saved);
    this.table.set(table);
    this.past.set([]);
    this.future.set([]);
    this.set(typed === '' ? box : withFirstText(box, typed), 'chosen');
  }

  /** The table's columns are others, or called otherwise, while the box is open. @returns names in the box that are gone */
  retable(table: TableSummary): readonly string[] {
    const now = onTable({ ...this.box(), strands: [...this.strands()] }, table);
    this.table.set(table);
    this.saved.set(onTable({ ...this.saved(), strands: [...strandsOf(this.saved())] }, table).box);
    if (!same(now.box, this.box())) this.box.set(now.box);
    const isLacking = (name: string): boolean => columnAt(table.columns, name) < 0;
    this.lacking.update((before) => [...new Set([...before, ...now.gone])].filter(isLacking));
    return now.gone;
  }

  private set(box: Box, change: BoxChange): void {
    this.box.set(box);
    this.changes.next(change);
  }

  /** Changes the box; the change can be undone. */
  update(change: Partial<Box>): void {
    this.go({ ...this.box(), ...change });
  }

  /** Goes to a state of the box that the address holds, or another window; that can be undone, too. */
  goTo(box: Box): void {
    if (!same(box, this.box())) this.go(box);
  }

  private go(after: Box): void {
    const before = this.box();
    const text = firstText(before) === firstText(after) ? undefined : firstText(after);
    this.past.update((past) => [...past.slice(1 - HISTORY), { box: before, text, at: performance.now() }]);
    this.future.set([]);
    this.set(after, 'chosen');
  }

  undo(): void {
    this.move(this.past, this.future);
  }

  redo(): void {
    this.move(this.future, this.past);
  }

  private move(from: WritableSignal<readonly Step[]>, to: WritableSignal<readonly Step[]>): void {
    const step = from().at(-1);
    if (!step) return;
    const now = this.box();
    // What was typed since stays, unless it is just what the change made of the text.
    const whole = step.text !== undefined && step.text === firstText(now);
    const next = whole ? step.box : withFirstText(step.box, firstText(now));
    to.update((steps) => [...steps, { box: now, text: whole ? firstText(next) : undefined, at: performance.now() }]);
    from.update((steps) => steps.slice(0, -1));
    const table = this.table();
    // Columns may be called otherwise since then.
    this.set(table ? onTable({ ...next, strands: [...strandsOf(next)] }, table).box : next, 'chosen');
  }

  /**
   * Typing is not a change of the box's definition, and is not undone step by step with it.
   * @param at once: searched without waiting for a pause or Enter, as what is chosen
   */
  type(strand: number, text: string, atOnce = false): void {
    const box = this.box();
    const strands = strandsOf(box).map((one, i) => (i === strand ? { ...one, text } : one));
    this.set({ ...box, strands }, atOnce ? 'chosen' : 'typed');
  }

  setStrand(strand: number, change: Partial<BoxStrand>): void {
    this.update({ strands: this.strands().map((one, i) => (i === strand ? { ...one, ...change } : one)) });
  }

  /** @returns false if there can be no more */
  addStrand(): boolean {
    if (this.strands().length >= MOST_STRANDS) return false;
    this.update({ strands: [...this.strands(), { verb: 'minus', text: '' }] });
    return true;
  }

  removeStrand(strand: number): void {
    this.update({ strands: this.strands().filter((_, i) => i !== strand) });
  }

  /** Moves a further strand up or down; the first one finds, and stays first. */
  moveStrand(strand: number, by: -1 | 1): void {
    const to = strand + by;
    if (strand < 1 || to < 1 || to >= this.strands().length) return;
    const strands = [...this.strands()];
    [strands[strand], strands[to]] = [strands[to], strands[strand]];
    this.update({ strands });
  }

  toggleThread(name: string): void {
    const threaded = this.threaded();
    this.lookIn(threaded.includes(name) ? threaded.filter((one) => one !== name) : [...threaded, name]);
  }

  /** Looks in these columns, too. */
  thread(names: readonly string[]): void {
    this.lookIn([...new Set([...this.threaded(), ...names])]);
  }

  private lookIn(names: readonly string[]): void {
    const order = this.allColumns().map((column) => column.name);
    const threaded = [...names].sort((a, b) => order.indexOf(a) - order.indexOf(b));
    this.update({ threaded, everyColumn: undefined });
  }

  /** Sorts by a column: up, down, then the table's own order again. @param further as a further level */
  sortBy(column: string, further: boolean): void {
    const sort = this.sort();
    const level = sort.find((one) => one.column === column);
    const others = further ? sort.filter((one) => one.column !== column) : [];
    const next = !level ? 'up' : level.direction === 'up' ? 'down' : undefined;
    const levels = next ? [{ column, direction: next } as const] : [];
    this.update({
      sort:
        further && level && next
          ? sort.map((one) => (one.column === column ? { ...one, direction: next } : one))
          : [...others, ...levels],
    });
  }

  setPicker(at: number, picker: BoxPicker): void {
    this.update({ pickers: this.pickers().map((one, i) => (i === at ? picker : one)) });
  }

  addPicker(picker: BoxPicker): void {
    this.update({ pickers: [...this.pickers(), picker] });
  }

  removePicker(at: number): void {
    this.update({ pickers: this.pickers().filter((_, i) => i !== at) });
  }

  setWidth(name: string, width: number): void {
    const fit = Math.round(Math.min(2000, Math.max(40, width)));
    const columns = shownOf(this.columns(), this.allColumns());
    this.update({ columns: columns.map((one) => (one.name === name ? { ...one, width: fit } : one)) });
  }

  /** Shows a column, where it was if it was hidden. @returns false if it is on show */
  show(name: string): boolean {
    const shown = shownOf(this.columns(), this.allColumns());
    if (shown.some((one) => one.name === name)) return false;
    this.update({ columns: shownAgain(shown, name, this.allColumns(), this.places.get(name)) });
    return true;
  }

  /** Hides a column, or shows it again where it was. One column always stays. @returns false if this is the last one */
  toggleShown(name: string): boolean {
    if (this.show(name)) return true;
    const rest = hidden(shownOf(this.columns(), this.allColumns()), name);
    if (!rest) return false;
    this.places.set(name, rest.place);
    this.update({ columns: rest.columns });
    return true;
  }

  /** Tells whether a column can be moved that way. */
  canMove(name: string, by: -1 | 1): boolean {
    const at = this.layout().findIndex((one) => one.name === name);
    return at >= 0 && at + by >= 0 && at + by < this.layout().length;
  }

  moveColumn(name: string, by: -1 | 1): void {
    const columns = shownOf(this.columns(), this.allColumns());
    const at = columns.findIndex((one) => one.name === name);
    const to = at + by;
    if (at < 0 || to < 0 || to >= columns.length) return;
    [columns[at], columns[to]] = [columns[to], columns[at]];
    this.update({ columns });
  }
}

function differOnlyInText(a: Box, b: Box): boolean {
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]) as Set<keyof Box>;
  return [...keys].every((key) => (key === 'strands' ? areReadAlike(a, b) : a[key] === b[key]));
}

/** Tells whether two boxes have the same strands, whatever is typed into them. */
function areReadAlike(a: Box, b: Box): boolean {
  const [one, other] = [strandsOf(a), strandsOf(b)];
  return (
    one.length === other.length &&
    one.every(({ verb, reading }, i) => verb === other[i].verb && reading === other[i].reading)
  );
}

/** All that is typed, a line a strand: for telling one answer from another. */
export function textOf(strands: readonly BoxStrand[]): string {
  return strands.map(({ text }) => text).join('\n');
}
