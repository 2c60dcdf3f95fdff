import type { WireSortLevel } from '@usual-needle/contract';
import { rowsCounted } from '../../services/numbers';
import type { LaidOutColumn } from '../state/layout';

/** A column's header. */
interface Head extends LaidOutColumn {
  readonly threaded: boolean;
  /** Rows of the answer that hit here; empty for none. */
  readonly hits: string;
  /** Arrow after the name, with its level if there are several. */
  readonly sorted: string;
  readonly ariaSort: 'ascending' | 'descending' | null;
  /** The name that a screen reader says. */
  readonly label: string;
}

/**
 * The headers of the columns on show.
 * @param tallies rows that hit, by column name: the columns on show may be others than those that the answer is of
 */
export function headsOf(
  layout: readonly LaidOutColumn[],
  threaded: ReadonlySet<string>,
  sort: readonly WireSortLevel[],
  tallies: ReadonlyMap<string, number>,
): Head[] {
  return layout.map((column) => {
    const hits = threaded.has(column.name) ? (tallies.get(column.name) ?? 0) : 0;
    const hitWords = hits > 0 ? rowsCounted(hits) : '';
    const level = sort.findIndex((one) => one.column === column.name);
    const up = sort[level]?.direction === 'up';
    return {
      ...column,
      threaded: threaded.has(column.name),
      hits: hitWords,
      label: [
        column.name,
        ...(column.spec.borrows ? ['borrowed'] : []),
        ...(hitWords === '' ? [] : [`${hitWords} match here`]),
      ].join(', '),
      sorted: level < 0 ? '' : ` ${up ? '↑' : '↓'}${sort.length > 1 ? level + 1 : ''}`,
      ariaSort: level < 0 ? null : up ? 'ascending' : 'descending',
    };
  });
}
