/** The checks that come before anything else: who calls, and in what form. */
import { FILE_TYPES } from '@usual-needle/formats/light';
import helmet from 'helmet';
import type { Middleware } from 'koa';
import type { Origins } from '../access/origins.js';
import { isApi } from './api-path.js';
import { HttpProblem } from './http-problem.js';

/** Headers that keep a page from being framed, and from loading anything that is not ours. */
export function securityHeaders(): Middleware {
  const headers = helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        // PrimeNG and Angular put their styles into the page.
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        fontSrc: ["'self'", 'data:'],
        objectSrc: ["'none'"],
        baseUri: ["'self'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    // Over plain HTTP the browser would only complain of these.
    crossOriginOpenerPolicy: false,
    originAgentCluster: false,
    strictTransportSecurity: false,
    referrerPolicy: { policy: 'same-origin' },
    xFrameOptions: { action: 'deny' },
  });
  return async (ctx, next) => {
    await new Promise<void>((done, fail) =>
      headers(ctx.req, ctx.res, (error?: unknown) => (error ? fail(error as Error) : done())),
    );
    await next();
  };
}

/** Refuses names that are not ours, and other sites' pages. */
export function ownPagesOnly(origins: Origins): Middleware {
  return async (ctx, next) => {
    const page = !isApi(ctx.path) && (ctx.method === 'GET' || ctx.method === 'HEAD');
    const refused = origins.refusal(ctx.headers, page);
    if (refused) throw new HttpProblem(refused.status, refused.title, refused.detail);
    await next();
  };
}

/** True where the body is a file: a table is brought in, or refreshed. */
export function isFile(method: string, path: string): boolean {
  return method === 'POST'
    ? /^\/api\/tables\/?$/i.test(path)
    : method === 'PUT' && /^\/api\/tables\/\d+\/rows\/?$/i.test(path);
}

/** True where the body edits rows: many cells may be pasted at once. */
export function isEdit(method: string, path: string): boolean {
  return method === 'POST' && /^\/api\/tables\/\d+\/changes\/?$/i.test(path);
}

/** Refuses bodies in a form that is not taken there: JSON everywhere, but where a table is brought in. */
export function knownTypesOnly(): Middleware {
  return async (ctx, next) => {
    if (isApi(ctx.path) && hasBody(ctx.headers)) {
      const file = isFile(ctx.method, ctx.path);
      const type = (ctx.get('Content-Type').split(';')[0] ?? '').trim().toLowerCase();
      if (file && type !== '' && !FILE_TYPES.includes(type)) {
        const detail = type.startsWith('multipart/')
          ? 'Send the file itself as the body, not a form: curl --data-binary @file.'
          : `A table is brought in from CSV, JSON, NDJSON or a workbook, not ${type.slice(0, 100)}.`;
        throw new HttpProblem(415, 'The file is in a form that is not taken here', detail);
      }
      if (!file && type !== 'application/json')
        throw new HttpProblem(415, 'The request is not JSON', 'Its Content-Type is to be application/json.');
    }
    await next();
  };
}

function hasBody(headers: { 'content-length'?: string; 'transfer-encoding'?: string }): boolean {
  return headers['transfer-encoding'] !== undefined || Number(headers['content-length'] ?? 0) > 0;
}
