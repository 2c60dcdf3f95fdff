/** How far the reading of the tables is. */
import type { Health } from '@usual-needle/contract';
import type { LoadProgress } from './held-tables.js';
import type { SharedAnswers } from './shared-answers.js';

/** @param filled all that was there at the start has been read */
export function healthOf(tables: readonly LoadProgress[], filled: boolean, { hits, misses }: SharedAnswers): Health {
  const read = tables.filter(({ done }) => done).length;
  return {
    status: filled && read === tables.length ? 'ready' : 'starting',
    tables: tables.length,
    tablesRead: read,
    rows: tables.reduce((sum, { rows }) => sum + rows, 0),
    rowsRead: tables.reduce((sum, { rowsRead }) => sum + rowsRead, 0),
    searches: { shared: hits, worked: misses },
  };
}
