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
import { TOKEN_KINDS, type TokenKind } from '@usual-needle/contract';

export type Level = 'anyone' | 'signed in' | 'reads' | 'keeps' | 'builds' | 'everything';

/** The kinds of token that may use a route; none may without the role that it takes, of the token's person, on a table of the token. */
export type ForTokens = 'any' | 'to read' | 'to keep' | 'to refresh' | 'to do everything' | 'none';

const TOKENS_FOR: Record<ForTokens, readonly TokenKind[]> = {
  any: TOKEN_KINDS,
  'to read': ['reads', 'keeps', 'everything'],
  'to keep': ['keeps', 'everything'],
  'to refresh': ['refreshes', 'everything'],
  'to do everything': ['everything'],
  none: [],
};

export interface AccessRow {
  readonly method: string;
  /** The address, as the router writes it. */
  readonly path: string;
  readonly level: Level;
  readonly tokens: ForTokens;
}

const row = (level: Level, method: string, path: string, tokens: ForTokens): AccessRow => ({
  ...{ level, method, path, tokens },
});

/** Tells whether tokens of a kind may use a route. */
export function isForTokens({ tokens }: AccessRow, kind: TokenKind): boolean {
  return TOKENS_FOR[tokens].includes(kind);
}

export const MATRIX: readonly AccessRow[] = [
  row('anyone', 'GET', '/api/openapi.json', 'any'),
  row('anyone', 'GET', '/api/health', 'any'),
  row('anyone', 'GET', '/api/health/live', 'any'),
  row('anyone', 'GET', '/api/health/ready', 'any'),
  row('everything', 'GET', '/api/metrics', 'to read'),
  row('anyone', 'GET', '/api/me', 'any'),
  row('anyone', 'GET', '/api/take-outs/:key', 'to read'),
  row('anyone', 'POST', '/api/sign-in', 'none'),
  row('anyone', 'POST', '/api/sign-out', 'none'),
  row('anyone', 'GET', '/api/invitations/:secret', 'none'),
  row('anyone', 'POST', '/api/invitations/:secret', 'none'),
  row('signed in', 'PUT', '/api/me/password', 'none'),
  row('signed in', 'GET', '/api/events', 'to read'),
  row('signed in', 'GET', '/api/tables', 'any'),
  row('everything', 'POST', '/api/tables', 'to do everything'),
  row('everything', 'POST', '/api/demo', 'to do everything'),
  row('everything', 'DELETE', '/api/demo', 'to do everything'),
  row('everything', 'GET', '/api/backup', 'to do everything'),
  row('everything', 'GET', '/api/people', 'none'),
  row('everything', 'PATCH', '/api/people', 'none'),
  row('everything', 'POST', '/api/people', 'none'),
  row('everything', 'PATCH', '/api/people/:person', 'none'),
  row('everything', 'POST', '/api/people/:person/link', 'none'),
  row('everything', 'DELETE', '/api/people/:person/link', 'none'),
  row('signed in', 'GET', '/api/tokens', 'none'),
  row('signed in', 'POST', '/api/tokens', 'none'),
  row('signed in', 'DELETE', '/api/tokens/:token', 'none'),
  row('keeps', 'GET', '/api/tables/:id', 'to read'),
  row('builds', 'PATCH', '/api/tables/:id', 'to do everything'),
  row('builds', 'DELETE', '/api/tables/:id', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/restore', 'to do everything'),
  row('builds', 'GET', '/api/tables/:id/dependents', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/boxes', 'to do everything'),
  row('keeps', 'POST', '/api/tables/:id/earlier', 'to read'),
  row('keeps', 'GET', '/api/tables/:id/rows', 'to read'),
  row('builds', 'PUT', '/api/tables/:id/rows', 'to refresh'),
  row('keeps', 'GET', '/api/tables/:id/copy', 'to read'),
  row('keeps', 'POST', '/api/tables/:id/take-out', 'to read'),
  row('keeps', 'POST', '/api/tables/:id/search', 'to read'),
  row('keeps', 'POST', '/api/tables/:id/explain', 'to read'),
  row('keeps', 'POST', '/api/tables/:id/offers', 'to read'),
  row('keeps', 'POST', '/api/tables/:id/next', 'to read'),
  row('keeps', 'POST', '/api/tables/:id/changes', 'to keep'),
  row('keeps', 'GET', '/api/tables/:id/changes', 'to read'),
  row('keeps', 'GET', '/api/tables/:id/changes/:number', 'to read'),
  row('keeps', 'GET', '/api/tables/:id/rows/:row/history', 'to read'),
  row('keeps', 'POST', '/api/tables/:id/changes/:number/undo', 'to keep'),
  row('keeps', 'GET', '/api/tables/:id/events', 'to read'),
  row('builds', 'PATCH', '/api/tables/:id/columns', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/columns', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/columns/values', 'to do everything'),
  row('builds', 'GET', '/api/tables/:id/lenders', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/pairing', 'to do everything'),
  row('signed in', 'GET', '/api/sources', 'to do everything'),
  row('builds', 'GET', '/api/tables/:id/source', 'to do everything'),
  row('builds', 'PUT', '/api/tables/:id/source', 'to do everything'),
  row('builds', 'DELETE', '/api/tables/:id/source', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/source/try', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/source/run', 'to do everything'),
  row('builds', 'POST', '/api/tables/:id/source/leave', 'to do everything'),
  row('builds', 'GET', '/api/tables/:id/source/runs', 'to do everything'),
  row('keeps', 'GET', '/api/boxes/:id', 'to read'),
  row('builds', 'PUT', '/api/boxes/:id', 'to do everything'),
  row('builds', 'DELETE', '/api/boxes/:id', 'to do everything'),
  row('builds', 'POST', '/api/boxes/:id/restore', 'to do everything'),
  row('builds', 'GET', '/api/boxes/:id/share', 'to do everything'),
  row('builds', 'PUT', '/api/boxes/:id/share', 'to do everything'),
  row('builds', 'POST', '/api/boxes/:id/share/link', 'to do everything'),
  row('builds', 'DELETE', '/api/boxes/:id/share/link', 'to do everything'),
  row('reads', 'GET', '/api/shared/:slug', 'to read'),
  row('reads', 'POST', '/api/shared/:slug/search', 'to read'),
  row('reads', 'POST', '/api/shared/:slug/explain', 'to read'),
  row('reads', 'POST', '/api/shared/:slug/offers', 'to read'),
  row('reads', 'POST', '/api/shared/:slug/next', 'to read'),
  row('reads', 'POST', '/api/shared/:slug/changes', 'to keep'),
  row('reads', 'GET', '/api/shared/:slug/changes', 'to read'),
  row('reads', 'GET', '/api/shared/:slug/rows/:row/history', 'to read'),
  row('reads', 'POST', '/api/shared/:slug/take-out', 'to read'),
  row('reads', 'GET', '/api/shared/:slug/as/atom', 'to read'),
  row('reads', 'GET', '/api/shared/:slug/as/:form', 'to read'),
  row('reads', 'GET', '/api/shared/:slug/events', 'to read'),
  row('reads', 'GET', '/api/shared/:slug/opensearch.xml', 'to read'),
  row('reads', 'GET', '/api/shared/:slug/suggestions', 'to read'),
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
