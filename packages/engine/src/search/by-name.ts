/**
 * A question with columns by name and settings left out where they are the usual ones: how boxes, files and requests put
 * it. Here it becomes the engine's own, with columns by number.
 */
import { DEFAULT_SETTINGS, type Need, type Reading, type Where } from '../notation/index.js';
import type { ColumnSpec } from '../store/index.js';
import type { Care } from '../text/index.js';
import type { Effect, Question, Verb } from './question.js';

export interface NamedQuestion {
  readonly threaded: readonly string[];
  readonly reading?: Reading;
  readonly need?: Need;
  readonly where?: Where;
  readonly case?: Care;
  readonly accents?: Care;
  readonly strands?: readonly { readonly verb: Verb; readonly text: string; readonly reading?: Reading }[];
  readonly effect?: Effect;
  readonly nothingTyped?: 'every row' | 'no row';
  readonly flip?: boolean;
}

/** A question names a column that the table does not have. */
export class UnknownColumn extends Error {
  constructor(readonly column: string) {
    super(`There is no column “${column}”.`);
  }
}

/** @throws UnknownColumn */
export function columnNumbers(columns: readonly ColumnSpec[], names: readonly string[]): number[] {
  return names.map((name) => {
    const index = columns.findIndex((column) => column.name === name);
    if (index < 0) throw new UnknownColumn(name);
    return index;
  });
}

/** @throws UnknownColumn */
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
    effect: named.effect ?? 'show only matches',
    nothingTyped: named.nothingTyped ?? 'every row',
    flip: named.flip ?? false,
  };
}
