/** Rows that lately began to be on show: the rows of each change, before and after, are asked a box's question by a host of their own. */
import type { Column, RowChange, Scope, SearchAnswer, WireQuestion } from '@usual-needle/contract';
import { answered, Host, type Outcome } from '@usual-needle/host';

/** A change, as far as it is asked about. */
export interface AskedChange {
  readonly number: number;
  readonly at: string;
  readonly rows: readonly Pick<RowChange, 'id' | 'before' | 'after'>[];
}

/** A row that began to be on show by a change. */
export interface Beginning {
  readonly row: number;
  readonly change: number;
  readonly at: string;
  /** Shown texts of the columns asked for, as they were after that change. */
  readonly cells: readonly string[];
}

/** Number of the only table of a host, and rows that are read from it at a time. */
const TABLE = 1;
const WINDOW = 500;

/** @param changes the last first @returns the last first, so many at most */
export async function beginnings(
  columns: readonly Column[],
  scope: Scope,
  question: WireQuestion,
  shown: readonly string[],
  changes: readonly AskedChange[],
  most: number,
): Promise<Outcome<readonly Beginning[]>> {
  const sides: { readonly id: number; readonly cells: readonly string[] }[] = [];
  const put = (cells: readonly string[] | null): number | undefined => {
    if (!cells) return undefined;
    sides.push({ id: sides.length + 1, cells });
    return sides.length;
  };
  const asked = changes.flatMap(({ number, at, rows }) =>
    rows.map(({ id, before, after }) => ({ row: id, change: number, at, before: put(before), after: put(after) })),
  );
  const host = new Host();
  host.begin(TABLE, columns);
  await host.append(TABLE, sides);
  await host.finish(TABLE, 1);
  const found = new Map<number, readonly string[]>();
  for (let offset = 0; ; offset += WINDOW) {
    const request = { question, columns: [...shown], offset, limit: WINDOW };
    const outcome = await host.search(scope, TABLE, request);
    if (outcome.is !== 'answered') return outcome;
    const answer = JSON.parse(outcome.value) as SearchAnswer;
    if (answer.problem) return { is: 'refused', why: 'question', message: answer.problem.message };
    const isMarking = question.effect === 'mark in place' && answer.asked;
    for (const { id, cells, match } of answer.rows) if (match || !isMarking) found.set(id, cells);
    if (offset + WINDOW >= answer.shown) break;
  }
  const began = asked.flatMap(({ row, change, at, before, after }) => {
    const cells = after === undefined ? undefined : found.get(after);
    return cells && !(before !== undefined && found.has(before)) ? [{ row, change, at, cells }] : [];
  });
  return answered(began.slice(0, most));
}
