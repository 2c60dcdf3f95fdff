/**
 * Form tokens: a page that sends a form says a token that only a page of ours can read, besides the Origin that browsers say. So a form
 * of another site is refused twice over where somebody is signed in, or signs in.
 *
 * Source: OWASP, Cross-Site Request Forgery Prevention, *double submit*; RFC 6454.
 */
import { timingSafeEqual } from 'node:crypto';
import { FORM_COOKIE, FORM_HEADER } from '@usual-needle/contract';
import type { IncomingMessage } from 'node:http';
import type { Middleware } from 'koa';
import { cookieNamed, type Access } from '../access/access.js';
import { principalOf } from '../access/principal.js';
import { newSecret } from '../access/secrets.js';
import { isApi } from './api-path.js';
import { HttpProblem } from './http-problem.js';

/** Gives each page a token, unless its browser has one. */
export function formTokensGiven(access: Access): Middleware {
  return async (ctx, next) => {
    await next();
    if (isApi(ctx.path) || ctx.type !== 'text/html' || cookieNamed(ctx.req, FORM_COOKIE) !== undefined) return;
    const secure = access.isSecure(ctx.req) ? '; Secure' : '';
    ctx.append('Set-Cookie', `${FORM_COOKIE}=${newSecret()}; Path=/; SameSite=Strict${secure}`);
  };
}

/** Refuses what a browser sends in somebody's name, or to become somebody, without the token of its page. */
export function formTokensAsked(): Middleware {
  return (ctx, next) => {
    const isSent = isApi(ctx.path) && !['GET', 'HEAD', 'OPTIONS'].includes(ctx.method);
    if (!isSent || ctx.get('Origin') === '' || !isSomebodys(ctx.req, ctx.path)) return next();
    const [said, has] = [ctx.get(FORM_HEADER), cookieNamed(ctx.req, FORM_COOKIE) ?? ''].map((one) => Buffer.from(one));
    if (has.length === 0 || said.length !== has.length || !timingSafeEqual(said, has))
      throw new HttpProblem(403, 'This page is out of date', 'Reload it, and do it again. Nothing was changed.');
    return next();
  };
}

function isSomebodys(request: IncomingMessage, path: string): boolean {
  const principal = principalOf(request);
  const isByCookie = principal.is === 'person' && !principal.token && principal.id > 0;
  return isByCookie || /^\/api\/(?:sign-in|invitations\/[^/]+)\/?$/i.test(path);
}
