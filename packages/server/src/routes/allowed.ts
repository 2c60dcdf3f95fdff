/** The door of the interface for programs: each request goes through the matrix, before any route looks at it. */
import { LARGEST_EARLIER } from '@usual-needle/contract';
import type Router from '@koa/router';
import type { Context, Middleware } from 'koa';
import { isForTokens, MATRIX, type AccessRow } from '../access/matrix.js';
import type { Principal } from '../access/principal.js';
import { buildsEverything, looksAfterAll, roleOf } from '../access/scopes.js';
import { bearerOf, type Access } from '../access/access.js';
import type { Boxes } from '../data/boxes.js';
import { isApi } from './api-path.js';
import { noTable } from './found.js';
import { HttpProblem, NotThere } from './http-problem.js';

/** Sees to it that every route has its row. @throws for one that has none: then the server does not start */
export function mustBeListed(routers: readonly Router[]): void {
  for (const { method, path } of routesOf(routers))
    if (!MATRIX.some((row) => row.method === method && row.path === path))
      throw new Error(`${method} ${path} has no row in the matrix of access`);
}

/** The routes of routers, as the matrix names them. */
export function routesOf(routers: readonly Router[]): { readonly method: string; readonly path: string }[] {
  return routers.flatMap(({ stack }) =>
    stack.flatMap(({ methods, path }) =>
      methods
        .filter((method) => method !== 'HEAD')
        .map((method) => ({ method, path: String(path).replace(/(.)\/$/, '$1') })),
    ),
  );
}

interface Rule extends AccessRow {
  readonly pattern: RegExp;
}

const RULES: readonly Rule[] = MATRIX.map((row) => ({
  ...row,
  pattern: new RegExp(`^${row.path.replace(/:\w+/g, '([^/]+)')}/?$`, 'i'),
}));

/** Gives the row of the matrix that a request falls under. */
export function ruleOf(method: string, path: string): Rule | undefined {
  const as = method === 'HEAD' ? 'GET' : method;
  return RULES.find((rule) => rule.method === as && rule.pattern.test(path));
}

/** @param tableNow the table that a table as it was is now */
export function allowedOnly(access: Access, boxes: Boxes, tableNow: (id: number) => number): Middleware {
  return async (ctx, next) => {
    if (!isApi(ctx.path)) return next();
    const principal = await access.identify(ctx.req);
    const rule = ruleOf(ctx.method, ctx.path);
    // An address, or a method, that is not answered is told of by the routes.
    if (rule) await mustBeAllowed(ctx, rule, principal, boxes, tableNow);
    else if (principal.is === 'nobody') throw notSignedIn(ctx);
    await next();
  };
}

async function mustBeAllowed(
  ctx: Context,
  rule: Rule,
  principal: Principal,
  boxes: Boxes,
  tableNow: (id: number) => number,
): Promise<void> {
  const { level, path } = rule;
  if (principal.is === 'nobody' && bearerOf(ctx.req) !== undefined) throw notSignedIn(ctx);
  if (principal.is === 'person' && principal.token && !isForTokens(rule, principal.token.kind))
    throw new HttpProblem(403, 'This token may not do that', 'It was made for something else.');
  if (level === 'anyone' || level === 'reads') return;
  if (principal.is === 'nobody') throw notSignedIn(ctx);
  if (level === 'signed in') return;
  if (level === 'everything') {
    // A token of another kind than the route takes has been refused above.
    if (!looksAfterAll(principal))
      throw new HttpProblem(403, 'This is not allowed here', 'Only who builds everything may do this.');
    return;
  }
  if (buildsEverything(principal)) return;
  const isBox = path.startsWith('/api/boxes/');
  const id = numberIn(rule.pattern.exec(ctx.path)?.[1]);
  const table = isBox ? await boxes.tableOf(id) : tableNow(id);
  const role = table === undefined ? undefined : roleOf(principal, table);
  // Where somebody has no role, there is nothing, in the same words as where there is not.
  if (!role) throw isBox ? new NotThere('box') : noTable(id);
  if (level === 'builds' && role !== 'builds')
    throw new HttpProblem(403, 'This is not allowed here', 'Only who builds this table may do this.');
}

/** The number in an address, as the router reads it: it may be written with percent signs. @returns -1 for what is no number */
function numberIn(part = ''): number {
  try {
    const text = decodeURIComponent(part);
    return /^\d{1,10}$/.test(text) && Number(text) <= LARGEST_EARLIER ? Number(text) : -1;
  } catch {
    return -1;
  }
}

function notSignedIn({ req }: Context): HttpProblem {
  const headers = { 'WWW-Authenticate': 'Bearer' };
  return bearerOf(req) === undefined
    ? new HttpProblem(401, 'Sign in first', 'This server answers to people who are signed in.', headers)
    : new HttpProblem(401, 'This token does not work', 'It has ended, was taken back, or never was one.', headers);
}
