import { computed, Injectable, signal, type WritableSignal } from '@angular/core';
import type { Box, Column, TableSummary, WireQuestion, WireSortLevel } from '@usual-needle/contract';
import { Subject } from 'rxjs';
import { differs, EMPTY_BOX, firstText, type Picker, type Strand, strandsOf, withFirstText } from './box-change';

/** A column as it is laid out in the grid. */
export interface LaidOutColumn {
  readonly name: string;
  readonly kind: Column['kind'];
  readonly width: number;
  /** Set in the type made for codes. */
  readonly code: boolean;
}

/** Typing can wait for a pause; what is chosen never does. */
export type BoxChange = 'typed' | 'chosen';

/** A state to go back or forth to. */
interface Step {
  readonly box: Box;
  /** True if the change between changed the text of the first strand too, as a remedy does. */
  readonly text: boolean;
}

const NONE: readonly never[] = [];
/** Steps that can be undone. */
const HISTORY = 100;
const STRANDS = 16;

/** A width that fits most cells of a column whose box does not give one, in pixels. */
export function usualWidth(column: Column): number {
  if (column.kind === 'date' || column.kind === 'number') return 120;
  if (column.kind === 'choice' || column.kind === 'yes/no') return 150;
  return /descr|note|says|text|comment/i.test(column.name) ? 300 : 160;
}

/** State of one sheet: a box over a table, what is typed, and the way back. */
@Injectable()
export class SheetStore {
  readonly table = signal<TableSummary | undefined>(undefined);
  readonly box = signal<Box>(EMPTY_BOX);
  /** The box as it is kept: what the address and unsaved changes are measured against. */
  readonly kept = signal<Box>(EMPTY_BOX);
  /** True where the box is only used, not built. */
  readonly reading = signal(false);
  readonly past = signal<readonly Step[]>([]);
  readonly future = signal<readonly Step[]>([]);
  /** Every change of the box, in the task in which it is made. */
  readonly changes = new Subject<BoxChange>();

  readonly strands = computed(() => strandsOf(this.box()));
  /** The box but for what is typed: the same object while only typing goes on. */
  readonly definition = computed(() => this.box(), { equal: differOnlyInText });
  readonly unsaved = computed(() => differs(this.box(), this.kept()));
  // Each by itself, so that a key typed does not draw anew what it leaves alone.
  readonly threaded = computed<readonly string[]>(() => this.box().threaded ?? NONE);
  readonly sort = computed<readonly WireSortLevel[]>(() => this.box().sort ?? NONE);
  readonly pickers = computed<readonly Picker[]>(() => this.box().pickers ?? NONE);
  private readonly columns = computed(() => this.box().columns);

  /** The columns on show, first to last. */
  readonly layout = computed<readonly LaidOutColumn[]>(() => {
    const all: readonly Column[] = this.table()?.columns ?? NONE;
    const named: readonly { name: string; width?: number }[] = this.columns() ?? all;
    return named.flatMap(({ name, width }) => {
      const column = all.find((candidate) => candidate.name === name);
      const code = /\bno\.?$|^code$|serial/i.test(name);
      return column ? [{ name, kind: column.kind, width: width ?? usualWidth(column), code }] : [];
    });
  });

  /** Opens a box on a table. @param kept as it is kept @param box as it is now */
  open(table: TableSummary, kept: Box, box: Box): void {
    this.kept.set(kept);
    this.table.set(table);
    this.past.set([]);
    this.future.set([]);
    this.set(box, 'chosen');
  }

  private set(box: Box, change: BoxChange): void {
    this.box.set(box);
    this.changes.next(change);
  }

  /** Changes the box; the change can be undone. */
  update(change: Partial<Box>): void {
    const before = this.box();
    const after = { ...before, ...change };
    const step: Step = { box: before, text: firstText(before) !== firstText(after) };
    this.past.update((past) => [...past.slice(1 - HISTORY), step]);
    this.future.set([]);
    this.set(after, 'chosen');
  }

  /** Goes to a state of the box that the address holds. */
  goTo(box: Box): void {
    this.set(box, 'chosen');
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
    to.update((steps) => [...steps, { box: now, text: step.text }]);
    from.update((steps) => steps.slice(0, -1));
    // What was typed since stays, unless it is the text that the change changed.
    this.set(step.text ? step.box : withFirstText(step.box, firstText(now)), 'chosen');
  }

  /** Typing is not a change of the box's definition, and is not undone step by step with it. */
  type(strand: number, text: string): void {
    const box = this.box();
    const strands = strandsOf(box).map((one, i) => (i === strand ? { ...one, text } : one));
    this.set({ ...box, strands }, 'typed');
  }

  setStrand(strand: number, change: Partial<Strand>): void {
    this.update({ strands: this.strands().map((one, i) => (i === strand ? { ...one, ...change } : one)) });
  }

  addStrand(): void {
    if (this.strands().length < STRANDS) this.update({ strands: [...this.strands(), { verb: 'minus', text: '' }] });
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
    const order = this.table()?.columns.map((column) => column.name) ?? [];
    const next = threaded.includes(name) ? threaded.filter((one) => one !== name) : [...threaded, name];
    this.update({ threaded: next.sort((a, b) => order.indexOf(a) - order.indexOf(b)) });
  }

  /** Up, down, then the table's own order again. @param further as a further level */
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

  setPicker(at: number, picker: Picker): void {
    this.update({ pickers: this.pickers().map((one, i) => (i === at ? picker : one)) });
  }

  addPicker(picker: Picker): void {
    this.update({ pickers: [...this.pickers(), picker] });
  }

  removePicker(at: number): void {
    this.update({ pickers: this.pickers().filter((_, i) => i !== at) });
  }

  /** Columns on show with the widths they have, for a change of one of them. */
  private shown(): { name: string; width?: number }[] {
    return [...(this.columns() ?? (this.table()?.columns ?? []).map(({ name }) => ({ name })))];
  }

  setWidth(name: string, width: number): void {
    const fit = Math.round(Math.min(2000, Math.max(40, width)));
    this.update({ columns: this.shown().map((one) => (one.name === name ? { ...one, width: fit } : one)) });
  }

  /** Shows a column, last, or hides it. One column always stays. */
  toggleShown(name: string): void {
    const shown = this.shown();
    const rest = shown.filter((one) => one.name !== name);
    if (rest.length === shown.length) this.update({ columns: [...shown, { name }] });
    else if (rest.length > 0) this.update({ columns: rest });
  }

  moveColumn(name: string, by: -1 | 1): void {
    const columns = this.shown();
    const at = columns.findIndex((one) => one.name === name);
    const to = at + by;
    if (at < 0 || to < 0 || to >= columns.length) return;
    [columns[at], columns[to]] = [columns[to], columns[at]];
    this.update({ columns });
  }
}

function differOnlyInText(a: Box, b: Box): boolean {
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]) as Set<keyof Box>;
  return [...keys].every((key) => key === 'strands' || a[key] === b[key]);
}

/** All that is typed, a line a strand: for telling one answer from another. */
export function textOf(strands: readonly Strand[]): string {
  return strands.map(({ text }) => text).join('\n');
}

/** What a box asks of its table. */
export function questionOf(box: Box): WireQuestion {
  const { need, where, case: letters, accents, effect, nothingTyped, reading, flip, pickers, sort, threaded } = box;
  return {
    threaded: [...(threaded ?? [])],
    strands: [...strandsOf(box)],
    need, where, case: letters, accents, effect, nothingTyped, reading, flip, pickers, sort,
  }; // prettier-ignore
}
