import type { Over } from '../keep/over-cells';
import { listed } from '../../common/sentence';
import type { Fresh } from '../state/lately';
import type { FetchedRow } from '../state/fetched-rows';

export type RowNoteKind = 'new' | 'changed' | 'left' | 'leaving' | 'also';

/** A row with the edits that are on their way drawn over what it holds. */
export interface RowOver extends FetchedRow {
  readonly states?: ReadonlyMap<string, 'waiting' | 'clash'>;
}

/** Puts what is on its way over what was fetched; the marks of such a cell are of what it held, and go. */
export function over(row: FetchedRow, edits: ReadonlyMap<string, Over> | undefined): RowOver {
  if (!edits) return row;
  const cells = [...row.cells];
  const states = new Map<string, 'waiting' | 'clash'>();
  const changed = new Set<number>();
  row.columns.forEach((column, i) => {
    const edit = edits.get(column);
    if (!edit) return;
    cells[i] = edit.text;
    changed.add(i);
    states.set(column, edit.clashes ? 'clash' : 'waiting');
  });
  if (changed.size === 0) return row;
  return { ...row, cells, states, marks: row.marks.filter(([column]) => !changed.has(column)) };
}

/** Gives what has become of a row lately, in few words. */
export function noteOf(
  row: FetchedRow,
  fresh: Fresh | undefined,
  leaving: boolean,
): { readonly text: string; readonly kind: RowNoteKind } | undefined {
  if (leaving) return { text: 'being removed', kind: 'leaving' };
  if (row.left) return { text: 'no longer matches', kind: 'left' };
  if (!fresh) return row.also?.length ? { text: `in ${listed(row.also)}`, kind: 'also' } : undefined;
  const by = fresh.who === null ? '' : ` · ${fresh.who}`;
  return fresh.isNew ? { text: `new${by}`, kind: 'new' } : { text: `changed${by}`, kind: 'changed' };
}
