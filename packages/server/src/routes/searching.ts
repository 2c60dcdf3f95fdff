/** /api/tables/:id/search, /explain, /offers and /next: questions that a host is asked, each within the scope of who asks. */
import Router from '@koa/router';
import {
  explainRequestSchema,
  LARGEST_EARLIER,
  nextRequestSchema,
  offersRequestSchema,
  searchRequestSchema,
  type ExplainRequest,
  type NextRequest,
  type OffersRequest,
  type Scope,
  type SearchRequest,
} from '@usual-needle/contract';
import type { Outcome } from '@usual-needle/host';
import { principalOf } from '../access/principal.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { idOf } from './ids.js';
import { answerOf, bodyOfAnswer, OVERTAKEN_ANSWER } from './outcomes.js';
import { bodyOf } from './validate.js';

const searchRequest = bodyOf<SearchRequest>(searchRequestSchema);
const explainRequest = bodyOf<ExplainRequest>(explainRequestSchema);
const offersRequest = bodyOf<OffersRequest>(offersRequestSchema);
const nextRequest = bodyOf<NextRequest>(nextRequestSchema);

export function searchRoutes(threads: SearchThreads): Router {
  const router = new Router({ prefix: '/api/tables/:id' });

  /** Routes that ask a host about a question and send what it says. */
  const about = <T>(
    path: string,
    body: (value: unknown) => T,
    ask: (scope: Scope, id: number, request: T) => Promise<Outcome<object>>,
    overtaken?: object,
  ): void => {
    router.post(`/${path}`, async (ctx) => {
      const id = idOf(ctx, 'table', 'id', LARGEST_EARLIER);
      const request = body(ctx.request.body);
      const outcome = await ask(threads.scopeFor(principalOf(ctx.req), id), id, request);
      ctx.type = 'json';
      ctx.body = bodyOfAnswer(answerOf(outcome, id, overtaken));
    });
  };
  about('search', searchRequest, (...asked) => threads.questions.search(...asked), OVERTAKEN_ANSWER);
  about('explain', explainRequest, (...asked) => threads.questions.explain(...asked), { reasons: [], overtaken: true });
  about('offers', offersRequest, (...asked) => threads.questions.offers(...asked));
  about('next', nextRequest, (...asked) => threads.questions.next(...asked));

  return router;
}
