/** The one place where scopes are made, of what a principal may see and do: there is no asking a host without one. */
import { WHOLE_SCOPE, type Scope } from '@usual-needle/contract';
import type { Principal } from './principal.js';

/** @param _table number of the table that is asked about */
export function scopeOf(principal: Principal, _table: number): Scope {
  switch (principal.kind) {
    case 'this machine':
      return WHOLE_SCOPE;
  }
}
