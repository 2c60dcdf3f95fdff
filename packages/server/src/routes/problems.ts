/** Errors as problem documents (RFC 9457). What was not foreseen says nothing of the inside and goes to the log. */
import type { Middleware } from 'koa';
import { PROBLEM_TYPE, type Problem } from '@usual-needle/contract';
import type { Logger } from 'pino';
import { CsvProblem } from '@usual-needle/contract/csv';

export class HttpProblem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail?: string,
  ) {
    super(detail ?? title);
  }
}

/** What is told of an error. */
export function problemOf(error: unknown): Problem {
  const type = 'about:blank';
  if (error instanceof HttpProblem) return { type, title: error.title, status: error.status, detail: error.detail };
  if (error instanceof CsvProblem) {
    return { type, title: 'The file was not brought in', status: 422, detail: error.message, line: error.line };
  }
  if (error instanceof Error && /^There is no column|cannot be narrowed by it/.test(error.message)) {
    return { type, title: 'The search cannot be asked of this table', status: 422, detail: error.message };
  }
  const status = error instanceof Error && 'status' in error ? Number(error.status) : 500;
  if (status >= 400 && status < 500) return { type, title: (error as Error).message, status };
  return { type, title: 'Something went wrong on the server', status: 500, detail: 'Nothing was changed. Try again.' };
}

export function problems(log: Logger): Middleware {
  return async (ctx, next) => {
    try {
      await next();
      if (ctx.status === 404 && ctx.body == null) throw new HttpProblem(404, 'There is nothing at this address');
      if (ctx.status === 405) throw new HttpProblem(405, `${ctx.method} is not answered at this address`);
    } catch (error) {
      const problem = problemOf(error);
      if (problem.status >= 500) log.error({ err: error, url: ctx.path }, 'request failed');
      ctx.status = problem.status;
      ctx.body = JSON.stringify(problem);
      ctx.type = PROBLEM_TYPE;
    }
  };
}
