/**
 * A question with columns by name and settings left out where they are the usual ones: how boxes, files and requests put
 * it. Here it becomes the engine's own, with columns by number.
 */
import { DEFAULT_SETTINGS, range, type Need, type TextReading, type Where } from '../notation/index.js';
import type { ColumnSpec } from '../store/index.js';
import type { Care } from '../text/index.js';
import type { Picker } from './matchers/picker-matchers.js';
import type { Effect, Question, Verb } from './question.js';

interface NamedQuestion {
  readonly threaded: readonly string[];
  readonly reading?: TextReading;
  readonly need?: Need;
  readonly where?: Where;
  readonly case?: Care;
  readonly accents?: Care;
  readonly strands?: readonly { readonly verb: Verb; readonly text: string; readonly reading?: TextReading }[];
  readonly pickers?: readonly NamedPicker[];
  readonly effect?: Effect;
  readonly nothingTyped?: 'every row' | 'no row';
  readonly flip?: boolean;
  readonly sort?: readonly {
    readonly column: string;
    readonly direction: 'up' | 'down';
    readonly by?: 'value' | 'count';
  }[];
}

/** A picker by name. Empty values, days, numbers or letters, and `either`, are no condition. */
type NamedPicker = { readonly column: string } & (
  | { readonly values: readonly string[] }
  | { readonly days: { readonly from: string; readonly to: string } }
  | { readonly numbers: { readonly from: number | null; readonly to: number | null } }
  | { readonly answer: 'yes' | 'no' | 'either' }
  | { readonly letters: readonly string[]; readonly position?: 'starts' | 'contains' }
  | { readonly unfit: true }
);

/** A picker's value cannot be read. */
export class UnreadablePicker extends Error {
  constructor(column: string, value: string) {
    super(`“${value}” cannot be read as a date, so “${column}” cannot be narrowed by it.`);
  }
}

function pickerByName(columns: readonly ColumnSpec[], named: NamedPicker): Picker {
  const [column] = columnNumbers(columns, [named.column]);
  if ('values' in named) return { type: 'values', column, values: named.values };
  if ('unfit' in named) return { type: 'unfit', column };
  if ('answer' in named) return { type: 'answer', column, answer: named.answer };
  if ('letters' in named)
    return { type: 'letters', column, letters: named.letters, position: named.position ?? 'starts' };
  if ('numbers' in named) {
    const { from, to } = named.numbers;
    return { type: 'interval', column, interval: { low: from ?? undefined, high: to ?? undefined } };
  }
  const { from, to } = named.days;
  const days = range({ ...columns[column], kind: 'date' }, from || undefined, to || undefined);
  if (days?.type !== 'interval') throw new UnreadablePicker(named.column, `${from}..${to}`);
  return { type: 'interval', column, interval: days.interval };
}

/** A question names a column that the table does not have. */
export class UnknownColumn extends Error {
  constructor(readonly column: string) {
    super(`There is no column “${column}”.`);
  }
}

/** Finds columns by their present names; failing that, by names that they had before. @throws UnknownColumn */
export function columnNumbers(columns: readonly ColumnSpec[], names: readonly string[]): number[] {
  return names.map((name) => {
    let index = columns.findIndex((column) => column.name === name);
    if (index < 0) index = columns.findIndex(({ formerly }) => formerly?.includes(name));
    if (index < 0) throw new UnknownColumn(name);
    return index;
  });
}

/** @throws UnknownColumn, UnreadablePicker */
export function questionByName(columns: readonly ColumnSpec[], named: NamedQuestion): Question {
  return {
    threaded: columnNumbers(columns, named.threaded),
    settings: {
      need: named.need ?? DEFAULT_SETTINGS.need,
      where: named.where ?? DEFAULT_SETTINGS.where,
      case: named.case ?? DEFAULT_SETTINGS.case,
      accents: named.accents ?? DEFAULT_SETTINGS.accents,
    },
    strands: (named.strands ?? []).map(({ verb, text, reading }) => ({
      verb,
      text,
      reading: reading ?? named.reading ?? 'words',
    })),
    pickers: (named.pickers ?? []).map((picker) => pickerByName(columns, picker)),
    effect: named.effect ?? 'show only matches',
    nothingTyped: named.nothingTyped ?? 'every row',
    flip: named.flip ?? false,
    sort: (named.sort ?? []).map(({ column, direction, by }) => ({
      column: columnNumbers(columns, [column])[0],
      direction,
      by: by ?? 'value',
    })),
  };
}
