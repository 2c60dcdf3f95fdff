/** /api/tokens: what a person gives programs, so that they may do some of what the person may; each is told once, and listed without its secret. */
import Router from '@koa/router';
import {
  isAllStorable,
  MOST_TOKENS,
  tokenRequestSchema,
  type TokenKind,
  type TokenList,
  type TokenRequest,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Access } from '../access/access.js';
import { principalOf, type Principal } from '../access/principal.js';
import { buildsEverything, roleOf } from '../access/scopes.js';
import { HttpProblem } from './http-problem.js';
import { idOf } from './ids.js';
import { noted } from './people.js';
import { bodyOf } from './validate.js';

const tokenRequest = bodyOf<TokenRequest>(tokenRequestSchema);

const DOES: Record<TokenKind, string> = {
  reads: 'reads',
  keeps: 'keeps',
  refreshes: 'refreshes',
  everything: 'does everything in',
};

export function tokenRoutes(access: Access): Router {
  const router = new Router({ prefix: '/api/tokens' });
  const { people, tokens } = access;

  /** @throws HttpProblem where nobody is signed in, whose token it would be */
  const personOf = (ctx: Context): Principal & { is: 'person' } => {
    const principal = principalOf(ctx.req);
    if (principal.is === 'person' && principal.id > 0) return principal;
    throw new HttpProblem(
      422,
      'A token is somebody’s',
      'Nobody is signed in here, so programs on this machine need none.',
    );
  };

  router.get('/', async (ctx) => {
    const principal = principalOf(ctx.req);
    ctx.set('Cache-Control', 'no-store');
    ctx.body = { tokens: principal.is === 'person' ? await tokens.ofPerson(principal.id) : [] } satisfies TokenList;
  });

  router.post('/', async (ctx) => {
    const asked = tokenRequest(ctx.request.body);
    const person = personOf(ctx);
    if (!isAllStorable(asked)) throw new HttpProblem(422, 'The name holds a character that cannot be kept');
    const missing = asked.tables?.find((table) => !roleOf(person, table));
    if (missing !== undefined) throw new HttpProblem(422, 'A token is for tables of yours', `${missing} is none.`);
    if ((await tokens.countOf(person.id)) >= MOST_TOKENS)
      throw new HttpProblem(409, 'There are too many tokens', `A person has ${MOST_TOKENS} at most. End some first.`);
    const made = await tokens.make(person.id, asked);
    const where = asked.tables ? `${asked.tables.length} tables` : 'all their tables';
    await people.note(person.name, `made a token, ${asked.name.trim()}, that ${DOES[asked.kind]} ${where}`);
    ctx.status = 201;
    ctx.set('Cache-Control', 'no-store');
    ctx.body = made;
  });

  router.delete('/:token', async (ctx) => {
    const principal = principalOf(ctx.req);
    // Who looks after people ends anybody's.
    const whose = buildsEverything(principal) ? undefined : personOf(ctx).id;
    const name = await tokens.end(idOf(ctx, 'token', 'token'), whose);
    if (name === undefined) throw new HttpProblem(404, 'There is no such token');
    access.changed();
    await people.note(noted(ctx), `ended the token ${name}`);
    ctx.status = 204;
  });

  return router;
}
