/** The one place where scopes on tables are made, of what a principal may see and do: there is no asking a host without one. */
import { READER_ACTIONS, WHOLE_SCOPE, type Role, type Scope } from '@usual-needle/contract';
import type { Principal } from './principal.js';

/** The scope of who keeps a table: everything that is done with rows, and nothing that changes the table or its boxes. */
const KEEPER_SCOPE: Scope = { ...WHOLE_SCOPE, actions: READER_ACTIONS };

/** Nothing: the scope of who has no role on a table, whose readers have boxes and no table. */
export const NO_SCOPE: Scope = {
  visible: [],
  searchable: [],
  narrowable: [],
  sortable: [],
  editable: [],
  actions: [],
};

/** @returns undefined for who has none: then the table is not there */
export function roleOf(principal: Principal, table: number): Role | undefined {
  switch (principal.is) {
    case 'this machine':
      return 'builds';
    case 'person':
      return withinToken(principal, table, principal.everything ? 'builds' : principal.roles.get(table));
    case 'nobody':
      return undefined;
  }
}

/** The role that is left of a person's where a token asks. */
function withinToken({ token }: Principal & { is: 'person' }, table: number, role: Role | undefined): Role | undefined {
  if (!token || !role) return role;
  if (token.tables && !token.tables.includes(table)) return undefined;
  return token.kind === 'reads' || token.kind === 'keeps' ? 'keeps' : role;
}

/** True for who builds everything, and looks after people. */
export function buildsEverything(principal: Principal): boolean {
  if (principal.is !== 'person' || !principal.token) return looksAfterAll(principal);
  return principal.token.kind === 'everything' && looksAfterAll(principal);
}

/** True for who builds everything, whatever kind of token asks for them: for what is only looked at. */
export function looksAfterAll(principal: Principal): boolean {
  if (principal.is !== 'person') return principal.is === 'this machine';
  return principal.everything && (!principal.token || principal.token.tables === null);
}

/** True for a token that gives tables newer rows, and looks at none. */
export function mayOnlyRefresh(principal: Principal): boolean {
  return principal.is === 'person' && principal.token?.kind === 'refreshes';
}

/** @param table number of the table that is asked about */
export function scopeOf(principal: Principal, table: number): Scope {
  const role = roleOf(principal, table);
  return role === 'builds' ? WHOLE_SCOPE : role === 'keeps' ? KEEPER_SCOPE : NO_SCOPE;
}
