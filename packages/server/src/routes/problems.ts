/** Errors as problem documents (RFC 9457). What was not foreseen says nothing of the inside and goes to the log. */
import type { Middleware } from 'koa';
import { PROBLEM_TYPE, type Problem } from '@usual-needle/contract';
import { FileProblem } from '@usual-needle/formats/light';
import type { Logger } from 'pino';
import { NotAllowed } from '../access/not-allowed.js';
import { isDatabaseAway } from '../data/away.js';
import { DiskFull } from '../data/disk-room.js';
import { ThreadGone } from '../threads/thread-gone.js';
import { isApi } from './api-path.js';
import { HttpProblem } from './http-problem.js';
import { toldPath } from './told-path.js';
import { problemPage, wantsPage } from './problem-page.js';

/** Letters of another's message that are told: it may quote what was sent. */
const QUOTED = 300;

/** Gives what is told of an error. */
export function problemOf(error: unknown): Problem {
  const type = 'about:blank';
  if (error instanceof HttpProblem)
    return { type, title: error.title, status: error.status, detail: error.detail, ...error.more };
  if (error instanceof FileProblem)
    return { type, title: 'The file was not brought in', status: 422, detail: error.message, line: error.line };
  if (error instanceof NotAllowed)
    return { type, title: 'This is not allowed here', status: 403, detail: error.message };
  if (error instanceof ThreadGone)
    return { type, title: 'The search was interrupted', status: 503, detail: error.message };
  if (error instanceof DiskFull) return { type, title: 'There is no room left', status: 507, detail: error.message };
  if (isDatabaseAway(error))
    return {
      type,
      title: 'The database cannot be reached',
      status: 503,
      detail: 'What was sent may not have been kept. Try again in a moment.',
    };
  const status = error instanceof Error && 'status' in error ? Number(error.status) : 500;
  if (status >= 400 && status < 500) return { type, title: (error as Error).message.slice(0, QUOTED), status };
  return { type, title: 'Something went wrong on the server', status: 500, detail: 'Try again.' };
}

export function problems(log: Logger): Middleware {
  return async (ctx, next) => {
    try {
      await next();
      if (ctx.status === 404 && ctx.body == null) throw new HttpProblem(404, 'There is nothing at this address');
      if (ctx.status === 405) throw new HttpProblem(405, `${ctx.method} is not answered at this address`);
      if (ctx.status === 501) throw new HttpProblem(501, `${ctx.method} is not known here`);
    } catch (error) {
      const problem = problemOf(error);
      const of = { request: ctx.response.get('Request-Id'), url: toldPath(ctx.path) };
      // Whoever goes away in the middle of what is sent has chosen to.
      if (error === ctx.req.errored) log.debug(of, 'sender left');
      else if (problem.status >= 500 && problem.status !== 503) log.error({ err: error, ...of }, 'request failed');
      // Of a stream that has begun nothing more can be said.
      if (ctx.headerSent) return;
      ctx.status = problem.status;
      if (error instanceof HttpProblem) ctx.set(error.headers);
      if (!isApi(ctx.path) && wantsPage(ctx.method, ctx.get('Accept'))) {
        ctx.body = problemPage(problem);
        ctx.type = 'text/html';
        return;
      }
      ctx.body = JSON.stringify(problem);
      ctx.type = PROBLEM_TYPE;
    }
  };
}
