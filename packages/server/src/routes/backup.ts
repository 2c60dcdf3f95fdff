/** /api/backup: all that is kept, of one moment, as a file that `usual-needle restore` takes. */
import { Readable } from 'node:stream';
import { createGzip } from 'node:zlib';
import Router from '@koa/router';
import { whoIs } from '../access/principal.js';
import type { RouteData } from '../data/data.js';

export function backupRoutes({ backup, people }: RouteData): Router {
  const router = new Router({ prefix: '/api/backup' });

  router.get('/', async (ctx) => {
    const who = whoIs(ctx.req, undefined);
    if (who !== undefined) await people.note(who, 'took a backup of everything');
    ctx.attachment(`usual-needle ${new Date().toISOString().slice(0, 10)}.backup`);
    ctx.set('Cache-Control', 'no-store');
    ctx.type = 'application/gzip';
    const lines = Readable.from(backup());
    const packed = createGzip();
    lines.on('error', (error) => packed.destroy(error));
    packed.on('close', () => lines.destroy());
    ctx.body = lines.pipe(packed);
  });

  return router;
}
