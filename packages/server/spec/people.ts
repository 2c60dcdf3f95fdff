/** People of a running server, for tests of what each may do. */
import type { Reply, Running } from './running.js';

export const PASSWORD = 'a long enough password';

/** Somebody who asks: with the cookie of a sign-in, or without one. */
export class Asker {
  constructor(
    private readonly running: Running,
    readonly cookie: string | undefined,
  ) {}

  ask(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Reply> {
    return this.running.ask(method, path, body, { ...(this.cookie && { cookie: this.cookie }), ...headers });
  }
}

export function cookieIn(reply: Reply): string {
  return (reply.headers.get('set-cookie') ?? '').split(';')[0];
}

/** Makes somebody, and signs them in. @param by who invites */
export async function comes(running: Running, by: Asker, invite: object): Promise<Asker> {
  const { body } = await by.ask('POST', '/api/people', invite);
  const secret = String(body['path']).split('/').at(-1)!;
  const reply = await running.ask('POST', `/api/invitations/${secret}`, { password: PASSWORD });
  return new Asker(running, cookieIn(reply));
}
