/** /api/demo: the demo's tables, put away and brought back together. */
import Router from '@koa/router';
import type { Data } from '../data/data.js';
import { DEMO_SOURCE } from '../data/tables.js';
import type { Follower } from '../live/follower.js';
import type { Removal } from '../live/removal.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { dependentsOf } from '../data/dependents.js';
import { HttpProblem } from './http-problem.js';

export function demoRoutes(data: Data, threads: SearchThreads, follower: Follower, removal: Removal): Router {
  const router = new Router({ prefix: '/api/demo' });
  const { tables } = data;
  const idsThere = (): Promise<number[]> => tables.idsFrom(DEMO_SOURCE, false);
  /** The work on the demo that is under way: who asks twice does not get it twice. */
  let doing: Promise<void> = Promise.resolve();
  const inTurn = (work: () => Promise<void>): Promise<void> => {
    const next = doing.then(work);
    doing = next.catch(() => undefined);
    return next;
  };

  router.delete('/', async (ctx) => {
    await inTurn(async () => {
      const ids = await idsThere();
      const list = await tables.list();
      for (const id of ids) {
        const borrower = dependentsOf(id, undefined, list, []).borrowers.find((one) => !ids.includes(one.id));
        if (!borrower) continue;
        const { name } = list.find((table) => table.id === id)!;
        throw new HttpProblem(
          409,
          `${borrower.name} borrows from ${name}`,
          `Remove ${borrower.columns.join(', ')} of ${borrower.name} first, or delete the demo’s other tables by themselves.`,
        );
      }
      for (const id of ids) await removal.remove(id);
    });
    ctx.status = 204;
  });

  router.post('/', async (ctx) => {
    await inTurn(async () => {
      if ((await idsThere()).length > 0) return;
      const deleted = await tables.idsFrom(DEMO_SOURCE, true);
      for (const id of deleted) await removal.restore(id);
      if (deleted.length > 0) return;
      // What reads files is read itself when there is one.
      const { bringInDemo } = await import('../imports/demo.js');
      await bringInDemo(data, threads);
      follower.shelf();
    });
    ctx.status = 204;
  });

  return router;
}
