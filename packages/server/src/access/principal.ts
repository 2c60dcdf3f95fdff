/** The one that asks: a person who is signed in, whoever sits at this machine, or nobody that is known. */
import type { IncomingMessage } from 'node:http';
import type { Role, TokenKind } from '@usual-needle/contract';

/** The token that a program asks with: it does at most what its kind is for, in its tables. */
export interface Token {
  readonly name: string;
  readonly kind: TokenKind;
  /** Numbers of its tables; null for all that are its person's. */
  readonly tables: readonly number[] | null;
}

export type Principal =
  | { readonly is: 'this machine' }
  | {
      readonly is: 'person';
      readonly id: number;
      readonly name: string;
      /** True for who builds everything, and looks after people. */
      readonly everything: boolean;
      readonly roles: ReadonlyMap<number, Role>;
      /** The token that asks for them, where a program does. */
      readonly token?: Token;
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
  if (principal.is !== 'person') return given;
  return principal.token ? `${principal.name}, by ${principal.token.name}` : principal.name;
}
