/**
 * The matrix of access: each route, message and event, and who may use it. A route that has no row here is answered to nobody, and a
 * test fails for it; so the matrix grows with the routes.
 *
 * ```
 * anyone       whoever reaches the server
 * signed in    a person, or whoever sits at this machine
 * reads        who a box is shared with, by its link or by name: the box's scope says the rest
 * keeps        who keeps the table, or builds it
 * builds       who builds the table
 * everything   who builds everything, and looks after people
 * ```
 */
export type Level = 'anyone' | 'signed in' | 'reads' | 'keeps' | 'builds' | 'everything';

export interface AccessRow {
  readonly method: string;
  /** The address, as the router writes it. */
  readonly path: string;
  readonly level: Level;
}

const row = (level: Level, method: string, path: string): AccessRow => ({ level, method, path });

export const MATRIX: readonly AccessRow[] = [
  row('anyone', 'GET', '/api/health'),
  row('anyone', 'GET', '/api/me'),
  row('anyone', 'POST', '/api/sign-in'),
  row('anyone', 'POST', '/api/sign-out'),
  row('anyone', 'GET', '/api/invitations/:secret'),
  row('anyone', 'POST', '/api/invitations/:secret'),
  row('signed in', 'PUT', '/api/me/password'),
  row('signed in', 'GET', '/api/events'),
  row('signed in', 'GET', '/api/tables'),
  row('everything', 'POST', '/api/tables'),
  row('everything', 'POST', '/api/demo'),
  row('everything', 'DELETE', '/api/demo'),
  row('everything', 'GET', '/api/people'),
  row('everything', 'POST', '/api/people'),
  row('everything', 'PATCH', '/api/people/:person'),
  row('everything', 'POST', '/api/people/:person/link'),
  row('everything', 'DELETE', '/api/people/:person/link'),
  row('keeps', 'GET', '/api/tables/:id'),
  row('builds', 'PATCH', '/api/tables/:id'),
  row('builds', 'DELETE', '/api/tables/:id'),
  row('builds', 'POST', '/api/tables/:id/restore'),
  row('builds', 'GET', '/api/tables/:id/dependents'),
  row('builds', 'POST', '/api/tables/:id/boxes'),
  row('keeps', 'POST', '/api/tables/:id/earlier'),
  row('keeps', 'GET', '/api/tables/:id/rows'),
  row('builds', 'PUT', '/api/tables/:id/rows'),
  row('keeps', 'GET', '/api/tables/:id/copy'),
  row('keeps', 'POST', '/api/tables/:id/search'),
  row('keeps', 'POST', '/api/tables/:id/explain'),
  row('keeps', 'POST', '/api/tables/:id/offers'),
  row('keeps', 'POST', '/api/tables/:id/next'),
  row('keeps', 'POST', '/api/tables/:id/changes'),
  row('keeps', 'GET', '/api/tables/:id/changes'),
  row('keeps', 'GET', '/api/tables/:id/changes/:number'),
  row('keeps', 'GET', '/api/tables/:id/rows/:row/history'),
  row('keeps', 'POST', '/api/tables/:id/changes/:number/undo'),
  row('keeps', 'GET', '/api/tables/:id/events'),
  row('builds', 'PATCH', '/api/tables/:id/columns'),
  row('builds', 'POST', '/api/tables/:id/columns'),
  row('builds', 'POST', '/api/tables/:id/columns/values'),
  row('builds', 'GET', '/api/tables/:id/lenders'),
  row('builds', 'POST', '/api/tables/:id/pairing'),
  row('keeps', 'GET', '/api/boxes/:id'),
  row('builds', 'PUT', '/api/boxes/:id'),
  row('builds', 'DELETE', '/api/boxes/:id'),
  row('builds', 'POST', '/api/boxes/:id/restore'),
  row('builds', 'GET', '/api/boxes/:id/share'),
  row('builds', 'PUT', '/api/boxes/:id/share'),
  row('builds', 'POST', '/api/boxes/:id/share/link'),
  row('builds', 'DELETE', '/api/boxes/:id/share/link'),
  row('reads', 'GET', '/api/shared/:slug'),
  row('reads', 'POST', '/api/shared/:slug/search'),
  row('reads', 'POST', '/api/shared/:slug/explain'),
  row('reads', 'POST', '/api/shared/:slug/offers'),
  row('reads', 'POST', '/api/shared/:slug/next'),
  row('reads', 'POST', '/api/shared/:slug/changes'),
  row('reads', 'GET', '/api/shared/:slug/changes'),
  row('reads', 'GET', '/api/shared/:slug/rows/:row/history'),
  row('reads', 'GET', '/api/shared/:slug/copy'),
  row('reads', 'GET', '/api/shared/:slug/events'),
];

/** Questions that come by the standing connection: each is looked at as its table, or its box, asks. */
export const STANDING_LEVELS = { table: 'keeps', box: 'reads' } as const satisfies Record<string, Level>;

/** Events, and who is told them: of a table only who keeps it is; of a box its readers, within its scope. */
export const EVENT_LEVELS = {
  hello: 'reads',
  change: 'reads',
  lent: 'reads',
  gone: 'reads',
  present: 'keeps',
  box: 'keeps',
  changed: 'signed in',
} as const satisfies Record<string, Level>;
