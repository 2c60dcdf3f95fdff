import { counted, plural, rowsCounted } from '../services/numbers';

/** The sum of all that was answered. */
export interface FoundInAll {
  /** Something is told at all, if only of an older text. */
  readonly told: boolean;
  readonly rows: number;
  readonly tables: number;
  readonly complete: boolean;
  /** How many could not be asked. */
  readonly failed: number;
  readonly problem: string;
}

/** Gives what the shelf says is found in all; empty with nothing typed. */
export function foundWords(found: FoundInAll | undefined): string {
  if (!found) return '';
  const { told, rows, tables, complete, failed, problem } = found;
  if (problem) return problem;
  if (!told && failed === 0) return complete ? '' : 'still searching';
  const words = rows === 0 ? 'nothing found' : `${rowsCounted(rows)} in ${plural(tables, 'table')}`;
  if (failed > 0) return `${words} · ${counted(failed)} could not be asked`;
  return `${words} · ${complete ? 'every row searched' : 'still searching'}`;
}
