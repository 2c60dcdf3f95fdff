/** The one that asks: a person who is signed in, whoever sits at this machine, or nobody that is known. */
import type { IncomingMessage } from 'node:http';
import type { Role } from '@usual-needle/contract';

export type Principal =
  | { readonly is: 'this machine' }
  | {
      readonly is: 'person';
      readonly id: number;
      readonly name: string;
      /** True for who builds everything, and looks after people. */
      readonly everything: boolean;
      readonly roles: ReadonlyMap<number, Role>;
    }
  | { readonly is: 'nobody' };

export const THIS_MACHINE: Principal = { is: 'this machine' };
export const NOBODY: Principal = { is: 'nobody' };

const known = new WeakMap<IncomingMessage, Principal>();

/** Notes whom a request comes from, once that is known. */
export function setPrincipal(request: IncomingMessage, principal: Principal): void {
  known.set(request, principal);
}

/** The principal that a request comes from. Where it was not made out, that is nobody. */
export function principalOf(request: IncomingMessage): Principal {
  return known.get(request) ?? NOBODY;
}

/** The name that changes are noted under: a person's own, whatever was sent. */
export function whoIs(request: IncomingMessage, given: string | undefined): string | undefined {
  const principal = principalOf(request);
  return principal.is === 'person' ? principal.name : given;
}
