/**
 * Rows taken out: of a table by who keeps it, of a box by its readers; and by an address that spreadsheets and scripts can ask again
 * and again. What leaves is of one moment, told with it.
 */
import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { Readable } from 'node:stream';
import Router from '@koa/router';
import {
  addressQuerySchema,
  CHANGE_HEADER,
  EMPTY_BOX,
  LARGEST_EARLIER,
  onTable,
  OPEN_IN_PAGE,
  questionOf,
  ROWS_HEADER,
  TAKE_OUT_FORMS,
  takeOutSchema,
  WHOLE_SCOPE,
  withFirstText,
  type Action,
  type AddressQuery,
  type Box,
  type OpenedBox,
  type RowChange,
  type StoredRow,
  type Scope,
  type TableSummary,
  type TakeOutForm,
  type TakeOutProgress,
  type TakeOutRequest,
  type WireQuestion,
} from '@usual-needle/contract';
import { FORMS } from '@usual-needle/formats/light';
import { LRUCache } from 'lru-cache';
import type { Context } from 'koa';
import type { Logger } from 'pino';
import type { Access } from '../access/access.js';
import { principalOf, whoIs } from '../access/principal.js';
import { mustBeAllowed } from '../access/scoped-records.js';
import { NO_SCOPE, roleOf, scopeOf } from '../access/scopes.js';
import { seenColumn, seenPlaces, seenTable } from '../access/seen.js';
import type { ReadersBox, SharedBoxes } from '../access/shared-boxes.js';
import type { RouteData } from '../data/data.js';
import { TAKE_AWAY } from '../folders.js';
import type { Leaving, TakeOuts, Told } from '../take-out/take-outs.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { boxAsked } from './box-asked.js';
import { filling } from './copy.js';
import { feedOfRows } from './feed-of-rows.js';
import { noTable } from './found.js';
import { NotThere } from './http-problem.js';
import { idOf } from './ids.js';
import { answerOf } from './outcomes.js';
import { readersBoxOf, slugIn } from './readers-box.js';
import { askedOf } from './shared.js';
import { bodyOf, queryOf } from './validate.js';

const takeOutRequest = bodyOf<TakeOutRequest>(takeOutSchema);
const addressQuery = queryOf<AddressQuery>(addressQuerySchema);

/** Changes that a feed looks back, rows of each that it looks at, and rows that it tells of. */
const LOOKED_BACK = 200;
const ROWS_LOOKED_AT = 500;
const ENTRIES = 100;

/** Cells of a row before a change and after it, as far as it was there, as if they were two rows. */
function sidesOf({ id, before, after }: RowChange): StoredRow[] {
  return [before, after].flatMap((cells) => (cells ? [{ id, version: 0, cells: [...cells] }] : []));
}

/** Rows that are asked for again and again by one address are noted once in so long, in milliseconds. */
const NOTED_MS = 60 * 60 * 1000;
const NOTED = 10_000;

/** A request for rows, of a table and within a scope. */
interface Asked {
  readonly table: number;
  readonly scope: Scope;
  readonly request: TakeOutRequest;
  /** The name of what the rows are of, for the name of the file and for the list of who took what out. */
  readonly name: string;
  readonly isStillAllowed: () => Promise<boolean>;
  /** The box as its take-away page has it. */
  readonly opened?: OpenedBox;
}

/** A take-away page has all rows and columns that its maker may see, whatever is on show. */
function takenWhole({ form, name, box }: TakeOutRequest): TakeOutRequest {
  return { form, question: { threaded: [] }, ...(name !== undefined && { name }), ...(box && { box }) };
}

/** A box as a page has it that is no server's. */
function openedAs(box: Box, { columns, ...table }: TableSummary, may: readonly Action[]): OpenedBox {
  const none = { id: 1, version: 1, change: 1 };
  const name = box.name ?? table.name;
  const told = columns.map(seenColumn);
  return {
    stored: { id: 1, tableId: 1, version: 1, changedAt: table.changedAt, name, box: { ...box, name } },
    table: { ...none, name: table.name, description: '', columns: told, rows: 0, changedAt: table.changedAt },
    may,
    editable: [],
  };
}

/** The same with a text typed into its box. */
function withTyped(opened: OpenedBox, text: string): OpenedBox {
  return { ...opened, stored: { ...opened.stored, box: withFirstText(opened.stored.box, text) } };
}

/** Lets pages of the sites that a builder has named read what comes, without a cookie (Fetch Standard, CORS protocol); those of others, none. */
function forSites(ctx: Context, sites: readonly string[]): void {
  ctx.vary('Origin');
  const origin = ctx.get('Origin');
  if (!sites.includes(origin)) return;
  ctx.set('Access-Control-Allow-Origin', origin);
  ctx.set('Access-Control-Expose-Headers', `ETag, Content-Disposition, ${CHANGE_HEADER}, ${ROWS_HEADER}`);
}

/** Tells whether whoever asks has what a tag is of (RFC 9110, 13.1.2); also where they want it looked at anew, since it just was. */
function isKnown(header: string, tag: string): boolean {
  return header.split(',').some((one) => one.trim().replace(/^W\//, '') === tag);
}

/** The texts that were typed, strand by strand, as a page has them. */
function typedIn({ strands = [] }: WireQuestion): string {
  const asked = strands.filter(({ text }) => text.trim() !== '');
  return asked.map(({ verb, text }) => (verb === 'find' ? text : `${verb}: ${text}`)).join(' · ');
}

export function takeOutRoutes(
  { tables, people, records }: RouteData,
  threads: SearchThreads,
  access: Access,
  shared: SharedBoxes,
  takeOuts: TakeOuts,
  log: Logger,
): Router {
  const router = new Router();
  let template: string | undefined;
  const filled = filling(threads);
  const noted = new LRUCache<string, true>({ max: NOTED, ttl: NOTED_MS });

  /** Notes who took what out, in the list that is kept for a year. */
  const note = (ctx: Context, { name, request: { form } }: Asked, rows: number, isRepeated: boolean): void => {
    const principal = principalOf(ctx.req);
    // Without people there is nobody to be told, nor to be told of.
    if (principal.is === 'this machine') return;
    const who = whoIs(ctx.req, undefined) ?? 'A reader by the link';
    const key = `${who} ${name} ${form}`;
    if (isRepeated && noted.has(key)) return;
    if (isRepeated) noted.set(key, true);
    const what = `took out ${rows.toLocaleString('en')} ${rows === 1 ? 'row' : 'rows'} of “${name}” as ${form}${isRepeated ? ', by its address' : ''}`;
    people
      .note(who, what)
      .catch((error: unknown) => log.warn({ err: error }, 'that rows were taken out was not noted'));
  };

  const begin = async (ctx: Context, asked: Asked): Promise<Leaving> => {
    const { table, scope, request, name } = asked;
    const at = new Date();
    const told =
      request.form === 'page'
        ? {
            sentence: request.sentence,
            typed: typedIn(request.question),
            who: whoIs(ctx.req, undefined),
            at: `${at.toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short', timeZone: 'UTC' })} UTC`,
          }
        : request.form === 'json'
          ? { at: at.toISOString() }
          : {};
    const widths = request.columns ? request.widths : undefined;
    const all = { ...told, ...(await pageOf(ctx, asked, at)), name, widths };
    return answerOf(await takeOuts.begin(scope, table, request, all, asked.isStillAllowed), table);
  };

  /** The page that rows are put into, with the box in it, where it is one to be taken away. */
  const pageOf = async (ctx: Context, { opened, request: { form } }: Asked, at: Date): Promise<Told> => {
    if (form !== 'take-away') return {};
    template ??= await readFile(TAKE_AWAY, 'utf8');
    return { template, opened, who: whoIs(ctx.req, undefined), at: at.toISOString() };
  };

  /** Sends what leaves; whoever goes before its end is waited for no longer. */
  const send = (ctx: Context, { form }: TakeOutRequest, name: string, { facts, bytes, close }: Leaving): void => {
    const { type, extension } = FORMS[form];
    // Of a path its last part only would be the name.
    ctx.attachment(`${name.replace(/[/\\\p{Cc}]/gu, '-')}.${extension}`);
    ctx.type = type;
    ctx.set({
      [CHANGE_HEADER]: String(facts.change),
      [ROWS_HEADER]: String(facts.rows),
      'Cache-Control': 'no-cache',
      'Accept-Ranges': 'none',
    });
    const stream = Readable.from(bytes, { objectMode: false });
    stream.once('close', close);
    // Whoever has gone by now closes nothing any more.
    if (ctx.res.closed || ctx.res.destroyed) close();
    else ctx.res.once('close', close);
    ctx.body = stream;
  };

  router.post('/api/tables/:id/take-out', async (ctx) => {
    const id = idOf(ctx, 'table', 'id', LARGEST_EARLIER);
    const request = takeOutRequest(ctx.request.body);
    const now = threads.earlier.asked(id)?.now ?? id;
    const table = await tables.find(now);
    if (!table) throw noTable(id);
    const scope = threads.scopeFor(principalOf(ctx.req), id);
    mustBeAllowed(scope, 'take out');
    const name = request.name ?? table.name;
    const isStillAllowed = async (): Promise<boolean> => roleOf(await access.identify(ctx.req), now) !== undefined;
    const whole = request.form === 'take-away' ? takenWhole(request) : request;
    const box = onTable({ ...EMPTY_BOX, ...request.box }, table).box;
    const opened = openedAs(box, seenTable(table, scope), OPEN_IN_PAGE);
    const asked: Asked = { table: id, scope, request: whole, name, isStillAllowed, opened };
    const leaving = await begin(ctx, asked);
    note(ctx, asked, leaving.facts.rows, false);
    send(ctx, request, name, leaving);
  });

  /** Gives what is asked of a box by its number by who keeps its table: they have all of it, whatever is open to readers. */
  const ofKeeper = (
    ctx: Context,
    { stored, table }: ReadersBox,
    request: (box: Box) => TakeOutRequest,
  ): Asked | undefined => {
    const scope = scopeOf(principalOf(ctx.req), table.id);
    if (!/^\d+$/.test(slugIn(ctx)) || scope === NO_SCOPE) return undefined;
    mustBeAllowed(scope, 'take out');
    const isStillAllowed = async (): Promise<boolean> => roleOf(await access.identify(ctx.req), table.id) !== undefined;
    const { box } = onTable(stored.box, table);
    const wanted = request(box);
    return {
      ...{ table: table.id, scope, name: stored.name, isStillAllowed },
      request: wanted.form === 'take-away' ? takenWhole(wanted) : wanted,
      opened: openedAs({ ...box, name: stored.name }, seenTable(table, scope), OPEN_IN_PAGE),
    };
  };

  /** Gives what a reader asks for, as their box answers it. */
  const ofReader = async (ctx: Context, request: (box: Box) => TakeOutRequest): Promise<Asked> => {
    const found = await readersBoxOf(ctx, shared);
    if (ctx.method === 'GET') forSites(ctx, found.sites);
    const kept = ofKeeper(ctx, found, request);
    if (kept) return kept;
    mustBeAllowed(found.scope, 'take out');
    const wanted = request(found.told);
    const { question, scope } = askedOf(found, wanted.question);
    const isStillAllowed = async (): Promise<boolean> => {
      const now = await shared.open(slugIn(ctx), await access.identify(ctx.req));
      return now?.scope.actions.includes('take out') === true;
    };
    const { name } = found.stored;
    const may = found.scope.actions.filter((action) => OPEN_IN_PAGE.includes(action));
    const opened = openedAs(found.told, seenTable(found.table, found.scope), may);
    const asked = wanted.form === 'take-away' ? takenWhole(wanted) : { ...wanted, question };
    return { table: found.table.id, scope, request: asked, name, isStillAllowed, opened };
  };

  router.post('/api/shared/:slug/take-out', async (ctx) => {
    const request = takeOutRequest(ctx.request.body);
    const asked = await ofReader(ctx, () => request);
    const leaving = await begin(ctx, asked);
    note(ctx, asked, leaving.facts.rows, false);
    send(ctx, request, asked.name, leaving);
  });

  /** Names what an answer by an address depends on: the change that each table is at, and what is asked of it within what. */
  const tagOf = async ({ table, scope, request }: Asked): Promise<string | undefined> => {
    const lenders = threads.lendersOf(table);
    // What a lender changed is there a moment before it is looked up here.
    const asked =
      lenders.length === 0
        ? [threads.knownChange(table)]
        : [threads.versionOf(table), ...[table, ...lenders].map((id) => threads.changeOf(id))];
    const changes = await Promise.all(asked);
    if (changes.includes(undefined)) return undefined;
    const hash = createHash('sha256').update(JSON.stringify([table, changes, scope, request]));
    return `"${hash.digest('base64url').slice(0, 27)}"`;
  };

  /** Tags what is answered by an address. @returns true where whoever asks has it already: that is all that they are told */
  const isUnchanged = async (ctx: Context, asked: Asked): Promise<boolean> => {
    const tag = await tagOf(asked);
    if (tag !== undefined) ctx.set('ETag', tag);
    ctx.set('Cache-Control', 'no-cache');
    const isSame = tag !== undefined && isKnown(ctx.get('If-None-Match'), tag);
    if (isSame) ctx.status = 304;
    return isSame;
  };

  router.get('/api/shared/:slug/as/atom', async (ctx) => {
    const { q, as } = addressQuery(ctx.query);
    let box = EMPTY_BOX;
    const asked = await ofReader(ctx, (saved) => {
      box = boxAsked(saved, q, as);
      const columns = box.columns?.map(({ name }) => name);
      return { form: 'json', question: questionOf(box), ...(columns && { columns }) };
    });
    if (await isUnchanged(ctx, asked)) return;
    const { scope, request, name } = asked;
    const table = await tables.find(asked.table);
    if (!table) throw noTable(asked.table);
    const changes = [];
    for await (const { number, at, rowChanges } of records.lately(scope, table, LOOKED_BACK)) {
      const rows = (rowChanges ?? []).slice(0, ROWS_LOOKED_AT);
      // Whole, since what is hidden may be what a row is locked by; the scope says what of it is told.
      const sides = await filled({ table, scope: WHOLE_SCOPE }, rows.flatMap(sidesOf));
      let side = 0;
      const next = (cells: readonly string[] | null): readonly string[] | null => cells && sides[side++];
      changes.push({
        number,
        at,
        rows: rows.map(({ id, before, after }) => ({ id, before: next(before), after: next(after) })),
      });
    }
    const shown = request.columns ?? seenPlaces(table.columns, scope).map((at) => table.columns[at].name);
    const outcome = await takeOuts.beginnings(table.columns, scope, request.question, shown, changes, ENTRIES);
    const rows = answerOf(outcome, asked.table);
    const page = `${access.isSecure(ctx.req) ? 'https' : 'http'}://${ctx.get('Host')}/b/${encodeURIComponent(slugIn(ctx))}`;
    const query = ctx.querystring;
    const typed = typedIn(request.question);
    ctx.type = 'application/atom+xml; charset=utf-8';
    ctx.body = feedOfRows({
      ...{ page, query, rows, self: `${page}.atom${query === '' ? '' : `?${query}`}` },
      ...{ title: typed === '' ? name : `${name}: ${typed}`, changedAt: table.changedAt },
      columns: shown.map((of) => ({ name: of })),
    });
  });

  router.get('/api/shared/:slug/as/:form', async (ctx) => {
    const { form } = ctx.params as { form: string };
    if (!(TAKE_OUT_FORMS as readonly string[]).includes(form)) throw new NotThere('form');
    const { q, as, offset, limit, ...writing } = addressQuery(ctx.query);
    const asked = await ofReader(ctx, (saved) => {
      const box = boxAsked(saved, q, as);
      const columns = box.columns?.map(({ name }) => name);
      const widths = box.columns?.every(({ width }) => width !== undefined)
        ? box.columns.map(({ width }) => width!)
        : undefined;
      return {
        form: form as TakeOutForm,
        question: questionOf(box),
        ...(columns && { columns }),
        ...(widths && { widths }),
        ...(offset !== undefined && { offset }),
        ...(limit !== undefined && { limit }),
        marks: form !== 'csv' && form !== 'xlsx',
        safe: form === 'xlsx',
        ...writing,
      };
    });
    if (await isUnchanged(ctx, asked)) return;
    ctx.status = 200;
    ctx.type = FORMS[form as TakeOutForm].type;
    if (ctx.method === 'HEAD') return;
    const { opened } = asked;
    const leaving = await begin(ctx, {
      ...asked,
      ...(opened && q !== undefined && { opened: withTyped(opened, q) }),
    });
    note(ctx, asked, leaving.facts.rows, true);
    send(ctx, asked.request, asked.name, leaving);
  });

  router.get('/api/take-outs/:key', (ctx) => {
    const rows = takeOuts.rowsSoFar((ctx.params as { key: string }).key);
    if (rows === undefined) throw new NotThere('rows on their way');
    ctx.set('Cache-Control', 'no-store');
    ctx.body = { rows } satisfies TakeOutProgress;
  });

  return router;
}
