/** The interface's own files: hashed names are kept for good, the page itself never; every other address is the page. */
import serve from 'koa-static';
import type { Middleware } from 'koa';
import { isApi } from './api-path.js';

const HASHED = /-[A-Z0-9]{8}\.\w+$|[\\/]media[\\/]/;

export function interfaceFiles(folder: string): Middleware {
  const files = serve(folder, {
    index: 'index.html',
    setHeaders: (response, path) =>
      response.setHeader('Cache-Control', HASHED.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache'),
  });
  return async (ctx, next) => {
    if (isApi(ctx.path) || (ctx.method !== 'GET' && ctx.method !== 'HEAD')) return next();
    const asked = ctx.path;
    if (!/\.\w+$/.test(asked)) ctx.path = '/index.html';
    await files(ctx, () => {
      ctx.path = asked;
      return next();
    });
    ctx.path = asked;
  };
}
