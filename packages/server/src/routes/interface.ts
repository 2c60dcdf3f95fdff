/** The interface's own files: hashed names are kept for good, the page itself never; every other address is the page. */
import { send } from '@koa/send';
import type { Middleware } from 'koa';
import { isApi } from './api-path.js';

const HASHED = /-[A-Z0-9]{8}\.\w+$|[\\/]media[\\/]/;

export function interfaceFiles(root: string): Middleware {
  return async (ctx, next) => {
    if (isApi(ctx.path) || (ctx.method !== 'GET' && ctx.method !== 'HEAD')) return next();
    const path = /\.\w+$/.test(ctx.path) ? ctx.path : '/index.html';
    await send(ctx, path, {
      root,
      setHeaders: (response, file) =>
        response.setHeader('Cache-Control', HASHED.test(file) ? 'public, max-age=31536000, immutable' : 'no-cache'),
    }).catch((error: unknown) => {
      // What is not there is said as of any other address.
      if ((error as { status?: number }).status !== 404) throw error;
    });
  };
}
