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
      return principal.everything ? 'builds' : principal.roles.get(table);
    case 'nobody':
      return undefined;
  }
}

/** True for who builds everything, and looks after people. */
export function buildsEverything(principal: Principal): boolean {
  return principal.is === 'this machine' || (principal.is === 'person' && principal.everything);
}

/** @param table number of the table that is asked about */
export function scopeOf(principal: Principal, table: number): Scope {
  const role = roleOf(principal, table);
  return role === 'builds' ? WHOLE_SCOPE : role === 'keeps' ? KEEPER_SCOPE : NO_SCOPE;
}
