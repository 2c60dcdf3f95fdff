import type { Change, ChangeCounts } from '@usual-needle/contract';
import { counted, plural, rowsCounted } from '../../services/numbers';

/** A piece of a sentence; the bold ones are what it is about. */
export interface SaidCell {
  readonly text: string;
  readonly bold?: boolean;
}

/** Columns that are named. */
const NAMED = 2;

function columnsOf({ columns }: ChangeCounts): SaidCell[] {
  const named = columns.slice(0, NAMED);
  const rest = columns.length - named.length;
  const pieces: SaidCell[] = named.flatMap((text, i) =>
    i === 0 ? [{ text, bold: true }] : [{ text: i === columns.length - 1 ? ' and ' : ', ' }, { text, bold: true }],
  );
  return rest > 0 ? [...pieces, { text: ` and ${plural(rest, 'more column')}` }] : pieces;
}

/** A change in a sentence, as its history tells it. @param own true if it was done in this browser */
export function changeWords(change: Change, own: boolean): SaidCell[] {
  const { kind, rows, counts, undoes } = change;
  const who = own ? 'You' : (change.who ?? 'Someone');
  const does = (verb: string, ...rest: SaidCell[]): SaidCell[] => [{ text: `${who} ${verb} ` }, ...rest];
  const many: SaidCell = { text: rowsCounted(rows), bold: true };
  switch (kind) {
    case 'brought in':
      return [{ text: 'Brought in: ' }, many];
    case 'refreshed': {
      if (!counts) return [{ text: 'Refreshed: ' }, many];
      const parts = [
        counts.added && `${counted(counts.added)} added`,
        counts.changed && `${counted(counts.changed)} changed`,
        counts.removed && `${counted(counts.removed)} removed`,
      ].filter(Boolean);
      return [{ text: 'Refreshed: ' }, { text: parts.join(', ') || 'its columns', bold: true }];
    }
    case 'columns':
      return does('changed the columns', ...columnsChanged(change));
    case 'undone':
      return does(
        'undid',
        { text: `change ${counted(undoes ?? 0)}`, bold: true },
        { text: ` in ${rowsCounted(rows)}` },
      );
    case 'added':
      return does('added', many);
    case 'removed':
      return does('removed', many);
    case 'filled':
      return does('filled', ...(counts ? columnsOf(counts) : []), { text: ` down in ${rowsCounted(rows)}` });
    case 'pasted':
      return does('pasted into', many);
    case 'edited':
      return does('changed', ...(counts ? columnsOf(counts) : []), { text: ` in ${rowsCounted(rows)}` });
  }
}

function columnsChanged({ columns }: Change): SaidCell[] {
  if (!columns) return [];
  const names = new Set(columns.before.map(({ name }) => name));
  const changed = columns.after.filter((column) => {
    const before = columns.before.find(({ name }) => name === column.name);
    return !names.has(column.name) || JSON.stringify(before) !== JSON.stringify(column);
  });
  return changed.slice(0, NAMED).flatMap(({ name: text }, i) => [{ text: i === 0 ? '' : ', ' }, { text, bold: true }]);
}

/** Says what a cell was and what it became by a change. */
export function cellWords(
  { rowChanges, counts }: Change,
  width: number,
): { before: string; after: string } | undefined {
  const [row] = rowChanges ?? [];
  if (rowChanges?.length !== 1 || !row.before || !row.after || counts?.columns.length !== 1) return undefined;
  for (let i = 0; i < width; i++) {
    const [before, after] = [row.before[i] ?? '', row.after[i] ?? ''];
    if (before !== after) return { before: before || 'blank', after: after || 'blank' };
  }
  return undefined;
}
