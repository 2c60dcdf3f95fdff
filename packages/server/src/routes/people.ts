/** /api/people: who can sign in, and what each may do; for who looks after people. */
import Router from '@koa/router';
import {
  accessRulesSchema,
  inviteSchema,
  personChangeSchema,
  type AccessRules,
  type Invite,
  type MadeLink,
  type People as PeopleList,
  type PersonChange,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import type { Access } from '../access/access.js';
import { principalOf } from '../access/principal.js';
import { LastBuilder, NameTaken, type MadeSecret } from '../data/people.js';
import { HttpProblem } from './http-problem.js';
import { idOf } from './ids.js';
import { bodyOf } from './validate.js';

const invite = bodyOf<Invite>(inviteSchema);
const accessRules = bodyOf<AccessRules>(accessRulesSchema);
const personChange = bodyOf<PersonChange>(personChangeSchema);

/** The name that a change of access is noted under. */
export function noted(ctx: Context): string {
  const principal = principalOf(ctx.req);
  return principal.is === 'person' ? principal.name : 'This machine';
}

const linkOf = ({ secret, until }: MadeSecret): MadeLink => ({ path: `/come/${secret}`, until });
const noPerson = (): HttpProblem => new HttpProblem(404, 'There is no such person');

export function peopleRoutes(access: Access): Router {
  const router = new Router({ prefix: '/api/people' });
  const { people, tokens } = access;

  router.get('/', async (ctx) => {
    ctx.set('Cache-Control', 'no-store');
    ctx.body = {
      people: await people.list(),
      rules: await people.rules(),
      tokens: await tokens.list(),
      changes: await people.changes(),
    } satisfies PeopleList;
  });

  router.patch('/', async (ctx) => {
    await people.setRules(accessRules(ctx.request.body), noted(ctx));
    ctx.status = 204;
  });

  router.post('/', async (ctx) => {
    const asked = invite(ctx.request.body);
    // Who makes the first of the others signs in, too: from then on this machine is nobody.
    if (
      !(await people.areMade()) &&
      principalOf(ctx.req).is === 'this machine' &&
      !access.reached.open &&
      !asked.everything
    )
      throw new HttpProblem(
        422,
        'The first one builds everything',
        'Make yourself first: whoever comes first looks after the others.',
      );
    const made = await people.invite(asked, noted(ctx)).catch((error: unknown) => {
      throw error instanceof NameTaken ? new HttpProblem(409, 'This name cannot be had', error.message) : error;
    });
    ctx.status = 201;
    ctx.body = linkOf(made);
  });

  router.patch('/:person', async (ctx) => {
    const change = personChange(ctx.request.body);
    const done = await people.change(idOf(ctx, 'person', 'person'), change, noted(ctx)).catch((error: unknown) => {
      throw error instanceof LastBuilder
        ? new HttpProblem(409, 'Somebody has to build everything', error.message)
        : error;
    });
    if (!done) throw noPerson();
    access.changed();
    ctx.status = 204;
  });

  router.post('/:person/link', async (ctx) => {
    const made = await people.inviteAgain(idOf(ctx, 'person', 'person'), noted(ctx));
    if (!made) throw noPerson();
    ctx.status = 201;
    ctx.body = linkOf(made);
  });

  router.delete('/:person/link', async (ctx) => {
    if (!(await people.takeBack(idOf(ctx, 'person', 'person'), noted(ctx)))) throw noPerson();
    ctx.status = 204;
  });

  return router;
}
