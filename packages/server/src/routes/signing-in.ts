/** /api/me, /api/sign-in, /api/sign-out and /api/invitations: who asks, and how one becomes somebody. */
import Router from '@koa/router';
import {
  acceptSchema,
  passwordChangeSchema,
  signInSchema,
  type Accept,
  type Invitation,
  type Me,
  type PasswordChange,
  type SignIn,
} from '@usual-needle/contract';
import type { Context } from 'koa';
import { cookieHeader, cookieOf, type Access } from '../access/access.js';
import { principalOf } from '../access/principal.js';
import { buildsEverything } from '../access/scopes.js';
import { SignInLimits } from '../access/sign-in-limits.js';
import { NameTaken } from '../data/people.js';
import { HttpProblem } from './http-problem.js';
import { bodyOf } from './validate.js';

const signIn = bodyOf<SignIn>(signInSchema);
const accept = bodyOf<Accept>(acceptSchema);
const passwordChange = bodyOf<PasswordChange>(passwordChangeSchema);

/** The same whatever is wrong with an invitation: nobody learns that there was one. */
const noInvitation = (): HttpProblem =>
  new HttpProblem(
    404,
    'This link does not work',
    'It was used, is older than a week, or was taken back. Ask for another.',
  );

export function signInRoutes(access: Access): Router {
  const router = new Router({ prefix: '/api' });
  const { people } = access;
  const limits = new SignInLimits();

  /** @param name the account that is tried; without one, it is a link */
  const counted = async (ctx: Context, name?: string): Promise<void> => {
    const address = access.addressOf(ctx.req);
    const seconds = await (name === undefined ? limits.triedLink(address) : limits.tried(name, address));
    if (seconds > 0)
      throw new HttpProblem(429, 'That was tried too often', `Wait ${seconds} seconds.`, {
        'Retry-After': `${seconds}`,
      });
  };
  /** A sign-in always has a cookie of its own: one that somebody else has put there is worth nothing. */
  const enter = async (ctx: Context, id: number): Promise<void> => {
    const before = cookieOf(ctx.req);
    if (before !== undefined) await people.signOut(before);
    const { secret, days } = await people.signIn(id);
    access.changed();
    ctx.append('Set-Cookie', cookieHeader(secret, access.isSecure(ctx.req), days));
    ctx.status = 204;
  };

  router.get('/me', async (ctx) => {
    const principal = principalOf(ctx.req);
    ctx.set('Cache-Control', 'no-store');
    ctx.body = {
      is: principal.is,
      name: principal.is === 'person' ? principal.name : null,
      everything: buildsEverything(principal),
      first: !(await people.areMade()),
      open: access.reached.open,
      madeUp: await access.madeUpPeople(ctx.req),
    } satisfies Me;
  });

  router.post('/sign-in', async (ctx) => {
    const { name, password } = signIn(ctx.request.body);
    await counted(ctx, name);
    const id = await people.check(name, password);
    if (id === undefined)
      throw new HttpProblem(403, 'This name and this password do not go together', 'Look at both, and try again.');
    await limits.succeeded(name, access.addressOf(ctx.req));
    await enter(ctx, id);
  });

  router.post('/sign-out', async (ctx) => {
    const secret = cookieOf(ctx.req);
    if (secret !== undefined) await people.signOut(secret);
    access.changed();
    ctx.append('Set-Cookie', cookieHeader(undefined, access.isSecure(ctx.req), 0));
    ctx.status = 204;
  });

  router.put('/me/password', async (ctx) => {
    const { before, password } = passwordChange(ctx.request.body);
    const principal = principalOf(ctx.req);
    if (principal.is !== 'person') throw new HttpProblem(403, 'This is not allowed here', 'Nobody is signed in.');
    await counted(ctx, principal.name);
    if (!(await people.changePassword(principal.id, before, password)))
      throw new HttpProblem(403, 'This is not the password that you have', 'Nothing was changed.');
    await enter(ctx, principal.id);
  });

  router.get('/invitations/:secret', async (ctx) => {
    await counted(ctx);
    const invited = await people.invited(ctx.params['secret']);
    if (!invited) throw noInvitation();
    ctx.set('Cache-Control', 'no-store');
    ctx.body = invited satisfies Invitation;
  });

  router.post('/invitations/:secret', async (ctx) => {
    const { name, password } = accept(ctx.request.body);
    await counted(ctx);
    const id = await people.accept(ctx.params['secret'], name, password).catch((error: unknown) => {
      throw error instanceof NameTaken ? new HttpProblem(409, 'This name cannot be had', error.message) : error;
    });
    if (id === undefined) throw noInvitation();
    await enter(ctx, id);
  });

  return router;
}
