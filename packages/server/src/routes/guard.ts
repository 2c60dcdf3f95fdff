/** The checks that come before anything else: who calls, and in what form. */
import { FILE_TYPES } from '@usual-needle/formats/light';
import helmet from 'helmet';
import type { Middleware } from 'koa';
import type { Origins } from '../access/origins.js';
import { isApi } from './api-path.js';
import { HttpProblem } from './http-problem.js';

/** The page of a shared box: the only one that other sites may be let to frame. */
const READERS_PAGE = /^\/b\/[^/]+$/;

/**
 * Headers that keep a page from being framed, and from loading anything that is not ours.
 * @param frames origins of sites that may frame the pages of shared boxes, and no other page
 */
export function securityHeaders(frames: readonly string[]): Middleware {
  const [usual, framed] = [headersWith([]), headersWith(frames)];
  return async (ctx, next) => {
    const headers = READERS_PAGE.test(ctx.path) ? framed : usual;
    await new Promise<void>((done, fail) =>
      headers(ctx.req, ctx.res, (error?: unknown) => (error ? fail(error as Error) : done())),
    );
    await next();
  };
}

function headersWith(frames: readonly string[]): ReturnType<typeof helmet> {
  return helmet({
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
        frameAncestors: frames.length > 0 ? ["'self'", ...frames] : ["'none'"],
      },
    },
    // Over plain HTTP the browser would only complain of these.
    crossOriginOpenerPolicy: false,
    originAgentCluster: false,
    strictTransportSecurity: false,
    referrerPolicy: { policy: 'same-origin' },
    // Browsers that know the list of sites do not look at this; those that do not would let nobody, or everybody.
    xFrameOptions: frames.length > 0 ? false : { action: 'deny' },
  });
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
  return method === 'POST' && /^\/api\/(?:tables|shared)\/[^/]+\/changes\/?$/i.test(path);
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
