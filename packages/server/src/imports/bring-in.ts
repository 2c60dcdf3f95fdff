/** From a CSV file to a stored table: kinds are guessed with care, cells are kept as they came. */
import { guessKind } from '@usual-needle/engine';
import type { Column } from '@usual-needle/contract';
import type { Records } from '../data/records.js';
import { readCsv, type CsvTable } from '@usual-needle/contract/csv';

/** Columns of a CSV file, with the kind each cell of them fits. */
export function columnsOf(table: CsvTable): Column[] {
  return table.columns.map((name, i) => {
    const { kind, dateOrder } = guessKind(table.rows.map((row) => row[i]));
    const shown = kind === 'date' ? { shown: { date: 'd MMM yyyy' as const } } : {};
    return { name, kind, ...(dateOrder && { dateOrder }), ...shown };
  });
}

/**
 * @returns the new table's id
 * @throws CsvProblem
 */
export function bringIn(records: Records, name: string, csv: string): Promise<number> {
  const table = readCsv(csv);
  return records.addTable(name, columnsOf(table), table.rows);
}
