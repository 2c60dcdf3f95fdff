/** /api/sources and /api/tables/:id/source: where a table takes newer rows from by itself, tried, kept, run and left. */
import Router from '@koa/router';
import {
  sourceRequestSchema,
  sourceRunSchema,
  sourceTrySchema,
  type Refresh,
  type Source,
  type SourceList,
  type SourceRequest,
  type SourceRun,
  type SourceRuns,
  type SourceSecret,
  type SourceTold,
  type SourceTry,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import { principalOf, whoIs } from '../access/principal.js';
import { mustBeAllowed } from '../access/scoped-records.js';
import { buildsEverything, roleOf } from '../access/scopes.js';
import type { RouteData } from '../data/data.js';
import type { KeptSource } from '../data/sources.js';
import { SourceFailed } from '../sources/failures.js';
import { NotFetched } from '../sources/own-network.js';
import { checkRhythm, nextFor, NoRhythm } from '../sources/rhythm.js';
import { CannotUnseal } from '../sources/sealing.js';
import type { SourcesRun } from '../sources/sources-run.js';
import { tableOf, type AskedTable } from './found.js';
import { HttpProblem, NotThere } from './http-problem.js';
import { bodyOf } from './validate.js';
import { clash, setVersion, versionsOf } from './versions.js';

const sourceRequest = bodyOf<SourceRequest>(sourceRequestSchema);
const sourceTry = bodyOf<SourceTry>(sourceTrySchema);
const sourceRun = bodyOf<SourceRun>(sourceRunSchema);

/** An answer for a source that gives no rows, or cannot. */
function refusalOf(error: unknown): unknown {
  const isKnown = [SourceFailed, NotFetched, NoRhythm, CannotUnseal].some((kind) => error instanceof kind);
  return isKnown ? new HttpProblem(422, 'The source gives no rows', (error as Error).message) : error;
}

export function sourceRoutes({ tables, sources }: RouteData, { ways, runs, rounds, now }: SourcesRun): Router {
  const router = new Router({ prefix: '/api' });

  const told = (kept: KeptSource): Promise<SourceTold> => sources.told(kept, rounds.isRunning(kept.tableId));

  const keptOf = async (ctx: Context): Promise<AskedTable & { kept: KeptSource }> => {
    const asked = await tableOf(ctx, tables);
    const kept = await sources.find(asked.table.id);
    if (!kept) throw new NotThere('source of this table');
    return { ...asked, kept };
  };

  /** @throws HttpProblem where a source is not one that whoever asks may have, or cannot be */
  const check = (ctx: Context, { from, rhythm }: Source): void => {
    // What lies in the in-tray, or a database has, is for who looks after all of it; an address is anybody's.
    if (!('address' in from) && !buildsEverything(principalOf(ctx.req)))
      throw new HttpProblem(
        403,
        'That is not yours to ask',
        'Databases and the in-tray are asked by who builds everything.',
      );
    if ('address' in from) {
      const url = URL.canParse(from.address) ? new URL(from.address) : undefined;
      if (!url) throw new HttpProblem(422, 'That is no address');
      if (url.username !== '' || url.password !== '')
        throw new HttpProblem(
          422,
          'The address holds a secret',
          'Give the name and the password apart from the address.',
        );
    } else if (rhythm.every === 'change' && 'query' in from)
      throw new HttpProblem(422, 'A database does not say when something is new', 'Choose how often it is asked.');
    try {
      checkRhythm(rhythm);
    } catch (error) {
      throw refusalOf(error);
    }
  };

  /** The secret that a source is asked with: the one that is given, or the one that is kept, for the same server only. */
  const secretOf = async (
    { from }: Source,
    given: SourceSecret | null | undefined,
    kept: KeptSource | undefined,
  ): Promise<SourceSecret | undefined> => {
    if (!('address' in from) || from.signIn === 'none') return undefined;
    const before = kept?.source.from;
    const isSameServer =
      before && 'address' in before && new URL(before.address).origin === new URL(from.address).origin;
    const secret = given ?? (isSameServer && kept?.secret ? await ways.sealing.unseal(kept.secret) : undefined);
    if (!secret || from.signIn !== ('token' in secret ? 'token' : 'password'))
      throw new HttpProblem(
        422,
        'The secret is missing',
        isSameServer ? 'Give it again.' : 'A secret is kept for one server. Give it with the address.',
      );
    return secret;
  };

  router.get('/sources', async (ctx) => {
    const principal = principalOf(ctx.req);
    const isEverything = buildsEverything(principal);
    const mine = (await sources.list()).filter(({ tableId }) => roleOf(principal, tableId) === 'builds');
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = {
      sources: await Promise.all(mine.map(told)),
      connections: isEverything ? [...ways.connections.keys()] : [],
      inTray: isEverything && ways.inTray !== undefined,
    } satisfies SourceList;
  });

  router.get('/tables/:id/source', async (ctx) => {
    const { kept } = await keptOf(ctx);
    setVersion(ctx, kept.version);
    // Its runs are told with it, and are none of its version.
    ctx.set('Cache-Control', 'no-store');
    ctx.body = await told(kept);
  });

  router.put('/tables/:id/source', async (ctx) => {
    const { source, secret: given } = sourceRequest(ctx.request.body);
    const { table, scope } = await tableOf(ctx, tables);
    mustBeAllowed(scope, 'bring in');
    check(ctx, source);
    const before = await sources.find(table.id);
    const versions = before ? versionsOf(ctx) : [];
    if (before && versions !== 'any' && !versions.includes(before.version)) throw clash('source');
    const secret = await secretOf(source, given, before).catch((error: unknown) => {
      throw refusalOf(error);
    });
    const at = now();
    const kept = await sources.keep(table.id, before?.version, {
      source,
      secret: secret ? await ways.sealing.seal(secret) : null,
      ...{ base: at, next: nextFor(source, at, at) },
    });
    if (!kept) throw clash('source');
    await rounds.tell(table.id);
    setVersion(ctx, kept.version);
    ctx.body = await told(kept);
  });

  router.delete('/tables/:id/source', async (ctx) => {
    const { table } = await keptOf(ctx);
    await sources.end(table.id);
    await rounds.tell(table.id);
    ctx.status = 204;
  });

  router.post('/tables/:id/source/try', async (ctx) => {
    const { source: asked, secret: given } = sourceTry(ctx.request.body);
    const { table, scope } = await tableOf(ctx, tables);
    mustBeAllowed(scope, 'bring in');
    const kept = await sources.find(table.id);
    const source = asked ?? kept?.source;
    if (!source) throw new NotThere('source of this table');
    check(ctx, source);
    try {
      const refresh: Refresh = await runs.tried(table, source, await secretOf(source, given, kept));
      ctx.body = refresh;
    } catch (error) {
      throw refusalOf(error);
    }
  });

  router.post('/tables/:id/source/run', async (ctx) => {
    const { anyway } = sourceRun(ctx.request.body);
    const { table, kept, scope } = await keptOf(ctx);
    mustBeAllowed(scope, 'bring in');
    check(ctx, kept.source);
    const who = whoIs(ctx.req, undefined) ?? 'Somebody';
    const ended = await rounds.runNow(table.id, () => ({ due: now(), missed: 0, who, anyway }));
    if (ended === 'running') throw new HttpProblem(409, 'It is running already');
    ctx.body = await told((await keptOf(ctx)).kept);
  });

  router.post('/tables/:id/source/leave', async (ctx) => {
    const { table, kept, scope } = await keptOf(ctx);
    mustBeAllowed(scope, 'bring in');
    if (!kept.waiting) throw new HttpProblem(409, 'It does not wait any more');
    await runs.leave(kept, whoIs(ctx.req, undefined));
    await rounds.tell(table.id);
    ctx.body = await told((await keptOf(ctx)).kept);
  });

  router.get('/tables/:id/source/runs', async (ctx) => {
    const { table } = await keptOf(ctx);
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = { runs: await sources.runs(table.id) } satisfies SourceRuns;
  });

  return router;
}
