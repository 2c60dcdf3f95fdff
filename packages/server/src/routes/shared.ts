/**
 * /api/shared/:slug: a box as its readers have it. They ask by the box and never by its table: each question is put together from what
 * they may choose and what the box says, and answered within the scope of its readers.
 */
import Router from '@koa/router';
import {
  changesQuerySchema,
  explainRequestSchema,
  nextRequestSchema,
  offersRequestSchema,
  readerQuestion,
  searchRequestSchema,
  type Action,
  type ChangeList,
  type ChangesQuery,
  type ExplainRequest,
  type NextRequest,
  type OffersRequest,
  type OpenedBox,
  type ReasonKind,
  type RowHistory,
  type Scope,
  type SearchRequest,
  type WireQuestion,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Logger } from 'pino';
import type { Access } from '../access/access.js';
import { whoIs } from '../access/principal.js';
import { mustBeAllowed } from '../access/scoped-records.js';
import { seenTable } from '../access/seen.js';
import type { ReadersBox, SharedBoxes } from '../access/shared-boxes.js';
import type { RouteData } from '../data/data.js';
import type { Follower } from '../live/follower.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { clashing, edited, editOf } from './changes.js';
import { beginsEvents, endsWhenNotAllowed } from './event-stream.js';
import { idOf } from './ids.js';
import { answerOf, bodyOfAnswer, OVERTAKEN_ANSWER, readAnswer } from './outcomes.js';
import { readersBoxOf, slugIn } from './readers-box.js';
import { bodyOf, queryOf } from './validate.js';

const searchRequest = bodyOf<SearchRequest>(searchRequestSchema);
const explainRequest = bodyOf<ExplainRequest>(explainRequestSchema);
const offersRequest = bodyOf<OffersRequest>(offersRequestSchema);
const nextRequest = bodyOf<NextRequest>(nextRequestSchema);
const changesQuery = queryOf<ChangesQuery>(changesQuerySchema);

/** Changes of one row that are told. */
const ROW_HISTORY = 100;
/** Rows that are asked about at once. */
const ASKED_ABOUT = 1_000;

/** The action that a reader needs for what a reason offers; those that are not here change the text only. */
const NEEDS: Partial<Record<ReasonKind, Action>> = {
  'other columns': 'thread',
  picker: 'narrow',
  strand: 'change readings',
  case: 'change readings',
  accents: 'change readings',
  position: 'change readings',
  reading: 'change readings',
  together: 'change readings',
  'any word': 'change readings',
  unreadable: 'change readings',
};

/** The question that a reader's becomes, and the scope that it is answered within. */
export function askedOf(
  { stored, told, table, scope }: ReadersBox,
  question: WireQuestion,
): { question: WireQuestion; scope: Scope } {
  const { box } = stored;
  // A box that is flipped by its builder stays so, though its readers may not flip it.
  const isFlipped = box.flip === true && !scope.actions.includes('flip');
  return {
    question: readerQuestion(question, box, told, table.columns, scope),
    scope: isFlipped ? flippedScope(scope) : scope,
  };
}

const flipped = new WeakMap<Scope, Scope>();
/** Kept, since answers are shared by scope. */
function flippedScope(scope: Scope): Scope {
  const kept = flipped.get(scope) ?? { ...scope, actions: [...scope.actions, 'flip' as const] };
  flipped.set(scope, kept);
  return kept;
}

export function sharedRoutes(
  { records, sharing }: RouteData,
  threads: SearchThreads,
  follower: Follower,
  access: Access,
  shared: SharedBoxes,
  log: Logger,
): Router {
  const router = new Router({ prefix: '/api/shared/:slug' });
  const { questions } = threads;

  const find = (ctx: Context): Promise<ReadersBox> => readersBoxOf(ctx, shared);

  router.get('/', async (ctx) => {
    const { stored, told: box, table, scope } = await find(ctx);
    if (ctx.query['opens'] !== undefined)
      sharing.wasOpened(stored.id).catch((error: unknown) => log.warn({ err: error }, 'an opening was not counted'));
    ctx.set('Cache-Control', 'no-store');
    const told = seenTable(table, scope);
    const rows = scope.locked ? 0 : table.rows;
    ctx.body = {
      stored: { ...stored, box },
      table: { ...told, description: '', rows },
      may: scope.actions,
      editable: scope.editable as readonly string[],
    } satisfies OpenedBox;
  });

  router.post('/search', async (ctx) => {
    const request = searchRequest(ctx.request.body);
    const found = await find(ctx);
    const { question, scope } = askedOf(found, request.question);
    const { id } = found.table;
    ctx.type = 'json';
    const outcome = await questions.search(scope, id, { ...request, question });
    ctx.body = bodyOfAnswer(answerOf(outcome, id, OVERTAKEN_ANSWER));
  });

  router.post('/explain', async (ctx) => {
    const request = explainRequest(ctx.request.body);
    const found = await find(ctx);
    const { question, scope } = askedOf(found, request.question);
    const outcome = await questions.explain(scope, found.table.id, { ...request, question });
    const answer = answerOf(outcome, found.table.id, { reasons: [], overtaken: true });
    const reasons = answer.reasons.filter(({ kind }) => {
      const needs = NEEDS[kind];
      return needs === undefined || scope.actions.includes(needs);
    });
    ctx.body = { ...answer, reasons };
  });

  router.post('/offers', async (ctx) => {
    const request = offersRequest(ctx.request.body);
    const found = await find(ctx);
    mustBeAllowed(found.scope, 'narrow');
    const { question, scope } = askedOf(found, request.question);
    ctx.body = answerOf(await questions.offers(scope, found.table.id, { ...request, question }), found.table.id);
  });

  router.post('/next', async (ctx) => {
    const request = nextRequest(ctx.request.body);
    const found = await find(ctx);
    const { question, scope } = askedOf(found, request.question);
    ctx.body = answerOf(await questions.next(scope, found.table.id, { ...request, question }), found.table.id);
  });

  /** Finds which of some rows exist within the scope. */
  const inside = async ({ scope, table }: ReadersBox, ids: readonly number[]): Promise<ReadonlySet<number>> => {
    if (!scope.locked) return new Set(ids);
    const there = new Set<number>();
    for (let at = 0; at < ids.length; at += ASKED_ABOUT) {
      const fresh = ids.slice(at, at + ASKED_ABOUT);
      const outcome = await questions.search(scope, table.id, { question: { threaded: [] }, fresh, limit: 0 });
      for (const id of readAnswer(answerOf(outcome, table.id)).fresh ?? []) there.add(id);
    }
    return there;
  };

  router.post('/changes', async (ctx) => {
    const found = await find(ctx);
    const asked = editOf(ctx.request.body);
    const { changed = [], removed = [] } = asked;
    const there = await inside(
      found,
      [...changed, ...removed].map(({ id }) => id),
    );
    const none = { column: null, was: null, theirs: null, yours: null, who: null, at: null };
    const gone = changed.filter(({ id }) => !there.has(id)).map(({ id }) => ({ id, ...none }));
    // In the words for rows that have gone.
    if (gone.length > 0) throw clashing(gone);
    const request = { ...asked, removed: removed.filter(({ id }) => there.has(id)), who: whoIs(ctx.req, asked.who) };
    ctx.body = await edited({ records }, follower, found, request);
  });

  router.get('/changes', async (ctx) => {
    const { after, before, limit, brief } = changesQuery(ctx.query);
    const { scope, table } = await find(ctx);
    const found = brief
      ? await records.history(scope, table, before, limit)
      : await records.log(scope, table, after, limit);
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = { changes: found } satisfies ChangeList;
  });

  router.get('/rows/:row/history', async (ctx) => {
    const { scope, table } = await find(ctx);
    const entries = await records.rowHistory(scope, table, idOf(ctx, 'row', 'row'), ROW_HISTORY);
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = { entries } satisfies RowHistory;
  });

  router.get('/events', async (ctx) => {
    const { table } = await find(ctx);
    if (!beginsEvents(ctx)) return;
    const last = Number(ctx.get('Last-Event-ID') || NaN);
    endsWhenNotAllowed(ctx, access, (principal) => shared.open(slugIn(ctx), principal));
    await follower.openReader(table.id, ctx.res, Number.isSafeInteger(last) && last >= 0 ? last : undefined);
  });

  return router;
}
