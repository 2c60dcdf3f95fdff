/**
 * /api/shared/:slug/opensearch.xml and …/suggestions: by them a browser searches a box from its address bar.
 *
 * Source: OpenSearch 1.1, description documents; OpenSearch Suggestions 1.1.
 */
import Router from '@koa/router';
import { isInSet, suggestionsQuerySchema, type Suggestions, type SuggestionsQuery } from '@usual-needle/contract';
import type { Access } from '../access/access.js';
import type { SharedBoxes } from '../access/shared-boxes.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { answerOf } from './outcomes.js';
import { readersBoxOf, slugIn } from './readers-box.js';
import { queryOf } from './validate.js';
import { inXml } from './xml.js';

const suggestionsQuery = queryOf<SuggestionsQuery>(suggestionsQuerySchema);

/** Letters that a short name may have there. */
const SHORT_NAME = 16;
/** Values that are suggested, the columns that they are looked for in, and the letters of the longest that is. */
const SUGGESTED = 8;
const LOOKED_IN = 6;
const LONGEST = 100;

export function addressBarRoutes(threads: SearchThreads, access: Access, shared: SharedBoxes): Router {
  const router = new Router({ prefix: '/api/shared/:slug' });

  router.get('/opensearch.xml', async (ctx) => {
    const { stored } = await readersBoxOf(ctx, shared);
    const slug = encodeURIComponent(slugIn(ctx));
    const here = `${access.isSecure(ctx.req) ? 'https' : 'http'}://${ctx.get('Host')}`;
    const [page, suggestions] = [`${here}/b/${slug}`, `${here}/api/shared/${slug}/suggestions`].map(
      (address) => `${inXml(address)}?q={searchTerms}`,
    );
    ctx.type = 'application/opensearchdescription+xml; charset=utf-8';
    ctx.set('Cache-Control', 'no-cache');
    ctx.body = `<?xml version="1.0" encoding="UTF-8"?>
<OpenSearchDescription xmlns="http://a9.com/-/spec/opensearch/1.1/">
  <ShortName>${inXml([...stored.name].slice(0, SHORT_NAME).join(''))}</ShortName>
  <Description>${inXml(`Search ${stored.name}`)}</Description>
  <InputEncoding>UTF-8</InputEncoding>
  <Url type="text/html" template="${page}"/>
  <Url type="application/x-suggestions+json" template="${suggestions}"/>
</OpenSearchDescription>
`;
  });

  router.get('/suggestions', async (ctx) => {
    const { q } = suggestionsQuery(ctx.query);
    const {
      scope,
      table: { id },
    } = await readersBoxOf(ctx, shared);
    const searched = scope.searchable as readonly string[];
    const columns = searched.filter((name) => isInSet(scope.visible, name)).slice(0, LOOKED_IN);
    const rows = new Map<string, number>();
    for (const column of q.trim() === '' ? [] : columns) {
      // Values that readers find by searching may be offered to them, though the box has no picker for their column.
      const within = { ...scope, narrowable: columns };
      const asked = { question: { threaded: [], strands: [] }, column, of: 'values' as const, holding: q };
      const { values } = answerOf(await threads.questions.offers(within, id, asked), id);
      for (const one of values.filter(({ value }) => value.length <= LONGEST).slice(0, SUGGESTED))
        rows.set(one.value, (rows.get(one.value) ?? 0) + one.rows);
    }
    const most = [...rows].sort(([, a], [, b]) => b - a).slice(0, SUGGESTED);
    ctx.set('Cache-Control', 'no-store');
    ctx.body = [
      q,
      most.map(([value]) => value),
      most.map(([, count]) => (count === 1 ? '1 row' : `${count} rows`)),
    ] satisfies Suggestions;
    ctx.type = 'application/x-suggestions+json';
  });

  return router;
}
