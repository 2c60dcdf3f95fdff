/** Makes HTTP of the outcomes of questions: the answer, or a problem document that says why there is none. */
import type { OvertakenAnswer, SearchAnswer } from '@usual-needle/contract';
import { answerIn, type Bytes, type Outcome } from '@usual-needle/host';
import { noTable } from './found.js';
import { HttpProblem } from './http-problem.js';

/** Programs are asked to try again after so many seconds. */
const SOON = { 'Retry-After': '1' };

/**
 * Gives the answer of an outcome.
 * @param id number of the table, as it was asked by
 * @param overtaken what is sent where a later question has made this one void
 * @throws HttpProblem
 */
export function answerOf<T>(outcome: Outcome<T>, id: number, overtaken?: T): T {
  switch (outcome.is) {
    case 'answered':
      return outcome.value;
    case 'overtaken':
      return overtaken ?? answerIn(outcome);
    case 'missing':
      throw noTable(id);
    case 'loading': {
      const [read, rows] = [outcome.rowsRead, outcome.rows ?? 0].map((n) => n.toLocaleString('en'));
      throw new HttpProblem(
        503,
        'This table is still being read',
        `${read} of ${rows} rows are read. It opens by itself.`,
        SOON,
      );
    }
    case 'refused':
      if (outcome.why === 'scope') throw new HttpProblem(403, 'This is not allowed here', outcome.message);
      if (outcome.why === 'too many') throw new HttpProblem(503, 'Too many questions at once', outcome.message, SOON);
      throw new HttpProblem(422, 'The search cannot be asked of this table', outcome.message);
    case 'failed':
      if (outcome.why === 'interrupted') throw new HttpProblem(503, 'The search was interrupted', outcome.message);
      throw new Error(outcome.message);
  }
}

/** The answer to a search that was overtaken, as JSON in UTF-8. */
export const OVERTAKEN_ANSWER = new TextEncoder().encode(
  JSON.stringify({
    overtaken: true,
    complete: false,
    rows: [],
    notices: [],
    problem: null,
  } satisfies OvertakenAnswer),
);

/** Gives an answer as Koa sends it: bytes as they are, else JSON. */
export function bodyOfAnswer(answer: object): object {
  return answer instanceof Uint8Array ? Buffer.from(answer.buffer, answer.byteOffset, answer.byteLength) : answer;
}

/** Reads the answer to a search. */
export function readAnswer(bytes: Bytes): SearchAnswer {
  return JSON.parse(new TextDecoder().decode(bytes)) as SearchAnswer;
}
