/** The texts that cells are to have while the edits of them are on their way. */
import type { Clash, EditRequest } from '@usual-needle/contract';

/** An edit of a cell that is on its way: the text, and whether it clashes. */
export interface Over {
  readonly text: string;
  readonly clashes: boolean;
}

export type OverCells = ReadonlyMap<number, ReadonlyMap<string, Over>>;

interface OnItsWay {
  readonly request: EditRequest;
}

const NONE: OverCells = new Map();

/** Puts edits by row and column, as columns are called now. Of several edits of a cell the last one is told, and one that clashes above all. */
export function overOf(
  edits: readonly OnItsWay[],
  clashing: readonly (OnItsWay & { readonly clashes: readonly Clash[] })[],
  calledNow: (column: string) => string = (column) => column,
): OverCells {
  if (edits.length + clashing.length === 0) return NONE;
  const over = new Map<number, Map<string, Over>>();
  const put = (request: EditRequest, clashes: readonly Clash[] = []): void => {
    for (const { id, now } of request.changed ?? []) {
      const cells = over.get(id) ?? new Map<string, Over>();
      request.columns.forEach((column, i) => {
        const text = now[i] ?? null;
        if (text !== null)
          cells.set(calledNow(column), {
            text,
            clashes: clashes.some((one) => one.id === id && (one.column ?? column) === column),
          });
      });
      over.set(id, cells);
    }
  };
  for (const { request } of edits) put(request);
  for (const { request, clashes } of clashing) put(request, clashes);
  return over;
}

/** Gives what is on its way by one or the other; the latter says what both do. */
export function overBoth(one: OverCells, other: OverCells): OverCells {
  const both = new Map(one);
  for (const [id, cells] of other) both.set(id, new Map([...(both.get(id) ?? []), ...cells]));
  return both;
}
