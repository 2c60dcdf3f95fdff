/** A question put to a host about the one table it holds, and what is said of it. */
import { WHOLE_SCOPE, type Column, type SearchAnswer, type WireQuestion } from '@usual-needle/contract';
import { answerIn, type Host, type Outcome } from '@usual-needle/host';
import { UsageProblem } from './options.js';

/** Reads the answer of a search, which comes as JSON. */
export function parsed(outcome: Outcome<string>): Outcome<SearchAnswer> {
  return outcome.is === 'answered' ? { ...outcome, value: JSON.parse(outcome.value) as SearchAnswer } : outcome;
}

/** Gives what a host answers. @throws UsageProblem where it cannot be asked that */
export async function askedHost<T>(question: Promise<Outcome<T>>): Promise<T> {
  const outcome = await question;
  if (outcome.is === 'refused') throw new UsageProblem(outcome.message);
  return answerIn(outcome);
}

export class FileSearch {
  private readonly names: readonly string[];

  constructor(
    private readonly host: Host,
    private readonly table: number,
    columns: readonly Column[],
    private readonly question: WireQuestion,
  ) {
    this.names = columns.map(({ name }) => name);
  }

  /** @throws UsageProblem where it cannot be asked of the table */
  answer(offset = 0, limit = 0): Promise<SearchAnswer> {
    const { question, names } = this;
    const request = { question, columns: [...names], offset, limit };
    return askedHost<SearchAnswer>(this.host.search(WHOLE_SCOPE, this.table, request).then(parsed));
  }
}
