/** The interface's own files: hashed names are kept for good, the page itself never; every other address is the page. */
import { stat } from 'node:fs/promises';
import { join, normalize } from 'node:path';
import { createReadStream } from 'node:fs';
import type { Middleware } from 'koa';

export function interfaceFiles(folder: string): Middleware {
  return async (ctx, next) => {
    if (ctx.path.startsWith('/api/') || (ctx.method !== 'GET' && ctx.method !== 'HEAD')) return next();
    let path: string;
    try {
      path = normalize(decodeURIComponent(ctx.path));
    } catch {
      path = '/';
    }
    let file = join(folder, path);
    let found = path.includes('\0') || !file.startsWith(folder) ? undefined : await stat(file).catch(() => undefined);
    if (!found?.isFile()) {
      if (/\.\w+$/.test(path)) return next();
      file = join(folder, 'index.html');
      found = await stat(file).catch(() => undefined);
      if (!found) return next();
    }
    const hashed = /-[A-Z0-9]{8}\.\w+$/.test(file) || path.startsWith('/media/');
    ctx.set('Cache-Control', hashed ? 'public, max-age=31536000, immutable' : 'no-cache');
    ctx.type = file.slice(file.lastIndexOf('.'));
    ctx.length = found.size;
    ctx.body = createReadStream(file);
  };
}
