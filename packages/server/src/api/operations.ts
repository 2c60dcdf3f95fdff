/**
 * The routes as other programs are told of them: what each does, what it takes, and what it answers. Schemas of what is taken are the very
 * ones that routes check by; those of answers are made from their types.
 */
import {
  acceptSchema,
  accessRulesSchema,
  addressQuerySchema,
  bringInQuerySchema,
  changesQuerySchema,
  columnChangeSchema,
  columnsRequestSchema,
  copyQuerySchema,
  dependentsQuerySchema,
  earlierRequestSchema,
  editRequestSchema,
  eventsQuerySchema,
  explainRequestSchema,
  fileChoicesSchema,
  inviteSchema,
  keepBoxSchema,
  nextRequestSchema,
  offersRequestSchema,
  pairingSchema,
  passwordChangeSchema,
  personChangeSchema,
  refreshQuerySchema,
  rowsQuerySchema,
  searchRequestSchema,
  shareSchema,
  signInSchema,
  sourceRequestSchema,
  sourceRunSchema,
  sourceTrySchema,
  suggestionsQuerySchema,
  tableChangeSchema,
  takeOutSchema,
  tokenRequestSchema,
  undoRequestSchema,
  valueChangeSchema,
  type Answers,
} from '@usual-needle/contract';
import { FORMS } from '@usual-needle/formats/light';

export interface Operation {
  /** The name that the description has for it. */
  readonly id: string;
  /** A sentence that says what it does. */
  readonly does: string;
  /** A schema of an object, of which each property is a parameter of the query. */
  readonly query?: object;
  /** Schemas of parameters of the query that are JSON themselves. */
  readonly json?: Readonly<Record<string, object>>;
  /** The schema of a body that is JSON; or a file. */
  readonly body?: object | 'file';
  /** A body that can be sent as it is, but for names and numbers. */
  readonly example?: unknown;
  /** True if the version that a change was made on has to be said, by `If-Match`. */
  readonly version?: true;
  readonly status?: 200 | 201 | 204;
  /** Names of the schemas of an answer that is JSON; or the type of another one. */
  readonly answer?: readonly (keyof Answers)[] | `${string}/${string}`;
  /** The types of an answer that is a file, of one of several. */
  readonly files?: readonly string[];
  /** The type of an answer whose schema is named, if it is not plain JSON. */
  readonly type?: string;
}

const CSV = 'text/csv';
/** The types of what is taken out. */
const FILES = [...new Set(Object.values(FORMS).map(({ type }) => type.split(';')[0]))];
const EVENTS = 'text/event-stream';

const SEARCH_EXAMPLE = {
  question: { threaded: ['Item'], strands: [{ verb: 'find', text: 'umbrella' }] },
  limit: 20,
} as const;
const question = SEARCH_EXAMPLE.question;
const EDIT_EXAMPLE = { key: 'a-key-of-your-own', kind: 'added', columns: ['Item'], added: [['umbrella']] };

/** Questions of a table, or of a box: they differ in who may ask them. */
const asks = (path: string, of: string, As: string): Record<string, Operation> => ({
  [`POST ${path}/search`]: {
    id: `search${As}`,
    does: `Searches ${of}: what is typed, pickers, effect and sort give rows, with their marks and counts.`,
    body: searchRequestSchema,
    example: SEARCH_EXAMPLE,
    answer: ['SearchAnswer', 'OvertakenAnswer'],
  },
  [`POST ${path}/explain`]: {
    id: `explain${As}`,
    does: 'Says why a question finds nothing, and what would find something.',
    body: explainRequestSchema,
    example: { question },
    answer: ['Explanation'],
  },
  [`POST ${path}/offers`]: {
    id: `offer${As}`,
    does: 'Gives the values that a picker of a column offers, with how many rows have each.',
    body: offersRequestSchema,
    example: { question, column: 'Item', of: 'values' },
    answer: ['Offers'],
  },
  [`POST ${path}/next`]: {
    id: `next${As}`,
    does: 'Finds the next match in the list, or the one before.',
    body: nextRequestSchema,
    example: { question, from: -1 },
    answer: ['NextMatch'],
  },
  [`POST ${path}/changes`]: {
    id: `edit${As}`,
    does: 'Edits, adds and removes rows. Sent again with the same key, it is done once.',
    body: editRequestSchema,
    example: EDIT_EXAMPLE,
    answer: ['EditDone'],
  },
  [`GET ${path}/changes`]: {
    id: `changes${As}`,
    does: 'Gives what was changed, change by change.',
    query: changesQuerySchema,
    answer: ['ChangeList'],
  },
  [`GET ${path}/rows/:row/history`]: {
    id: `rowHistory${As}`,
    does: 'Gives what was changed of one row.',
    answer: ['RowHistory'],
  },
  [`POST ${path}/take-out`]: {
    id: `takeRowsOut${As}`,
    does: 'Takes rows out in one of the forms: those on show, or some of them, as they are at one moment.',
    body: takeOutSchema,
    example: { form: 'csv', question },
    files: FILES,
  },
  [`GET ${path}/events`]: {
    id: `events${As}`,
    does: 'Tells of changes as they are made, as server-sent events.',
    query: eventsQuerySchema,
    answer: EVENTS,
  },
});

const TABLE = '/api/tables/:id';
const BOX = '/api/boxes/:id';
const SHARED = '/api/shared/:slug';

/** All operations by method and address, as the matrix of access names them. */
export const OPERATIONS: Readonly<Record<string, Operation>> = {
  'GET /api/openapi.json': {
    id: 'describe',
    does: 'Gives this description.',
    answer: 'application/openapi+json',
  },
  'GET /api/health/live': { id: 'live', does: 'Says that the server is up.', answer: ['Live'] },
  'GET /api/health/ready': {
    id: 'ready',
    does: 'Says that all tables answer, and the database does; else a problem with status 503.',
    answer: ['Health'],
  },
  'GET /api/backup': {
    id: 'backup',
    does: 'Gives a backup of all that is kept, of one moment, which usual-needle restore takes.',
    answer: 'application/gzip',
  },
  'GET /api/metrics': {
    id: 'metrics',
    does: 'Tells the state of the server in numbers (OpenMetrics).',
    answer: 'application/openmetrics-text',
  },
  'GET /api/health': { id: 'health', does: 'Says whether the server is ready.', answer: ['Health'] },
  'GET /api/me': { id: 'me', does: 'Says who asks, as the server knows them.', answer: ['Me'] },
  'GET /api/take-outs/:key': {
    id: 'takeOutProgress',
    does: 'Says how many rows have left of what is taken out under a key.',
    answer: ['TakeOutProgress'],
  },
  'POST /api/sign-in': {
    id: 'signIn',
    does: 'Signs a person in; the answer sets a cookie, to be sent with what is asked from then on.',
    body: signInSchema,
    example: { name: 'NAME', password: 'A LONG PASSWORD' },
  },
  'POST /api/sign-out': { id: 'signOut', does: 'Ends the sign-in of the cookie.' },
  'GET /api/invitations/:secret': {
    id: 'invitation',
    does: 'Says for whom an invitation is.',
    answer: ['Invitation'],
  },
  'POST /api/invitations/:secret': {
    id: 'accept',
    does: 'Uses an invitation: sets a password, and signs in.',
    body: acceptSchema,
    example: { password: 'A LONG PASSWORD' },
  },
  'PUT /api/me/password': {
    id: 'changePassword',
    does: 'Changes one’s own password, and ends one’s other sign-ins.',
    body: passwordChangeSchema,
    example: { before: 'A LONG PASSWORD', password: 'ANOTHER LONG PASSWORD' },
  },
  'GET /api/events': {
    id: 'events',
    does: 'Tells whenever something has happened to a table or a box, as server-sent events.',
    answer: EVENTS,
  },
  'GET /api/tables': {
    id: 'list',
    does: 'Lists the tables and boxes that there are for who asks.',
    answer: ['ShelfContent'],
  },
  'POST /api/tables': {
    id: 'bringIn',
    does: 'Brings a file in, as a new table.',
    query: bringInQuerySchema,
    json: { how: fileChoicesSchema },
    body: 'file',
    status: 201,
    answer: ['TableSummary'],
  },
  'POST /api/demo': { id: 'bringDemo', does: 'Brings the demo in, or back.' },
  'DELETE /api/demo': { id: 'putDemoAway', does: 'Puts the tables of the demo away.' },
  'GET /api/people': { id: 'people', does: 'Lists people, and what was changed about access.', answer: ['People'] },
  'PATCH /api/people': {
    id: 'setRules',
    does: 'Sets what somebody new starts as, and for how long a sign-in lasts.',
    body: accessRulesSchema,
    example: { newcomers: 'read', signInDays: 30 },
  },
  'POST /api/people': {
    id: 'invite',
    does: 'Invites somebody, by a link that works once.',
    body: inviteSchema,
    example: { name: 'NAME', roles: [{ table: 1, role: 'keeps' }] },
    status: 201,
    answer: ['MadeLink'],
  },
  'PATCH /api/people/:person': {
    id: 'changePerson',
    does: 'Changes what a person may do, disables them, or signs them out everywhere.',
    body: personChangeSchema,
    example: { disabled: true },
  },
  'POST /api/people/:person/link': {
    id: 'inviteAgain',
    does: 'Makes a new link for a person; older ones do not work any more.',
    status: 201,
    answer: ['MadeLink'],
  },
  'DELETE /api/people/:person/link': { id: 'takeInvitationBack', does: 'Takes an invitation back.' },
  'GET /api/tokens': { id: 'tokens', does: 'Lists one’s own tokens, without their secrets.', answer: ['TokenList'] },
  'POST /api/tokens': {
    id: 'makeToken',
    does: 'Makes a token for a program; its secret is told once, here.',
    body: tokenRequestSchema,
    example: { name: 'Nightly refresh', kind: 'refreshes', tables: [1], days: 30 },
    status: 201,
    answer: ['MadeToken'],
  },
  'DELETE /api/tokens/:token': { id: 'endToken', does: 'Ends a token of one’s own.' },
  [`GET ${TABLE}`]: {
    id: 'table',
    does: 'Gives a table: its columns, and how many rows it has.',
    answer: ['TableSummary'],
  },
  [`PATCH ${TABLE}`]: {
    id: 'describeTable',
    does: 'Gives a table another name or description.',
    body: tableChangeSchema,
    example: { description: 'Things that were found, until they are fetched.' },
    version: true,
    answer: ['TableSummary'],
  },
  'GET /api/sources': {
    id: 'sources',
    does: 'Lists where tables take newer rows from by themselves, and what can be asked.',
    answer: ['SourceList'],
  },
  [`GET ${TABLE}/source`]: { id: 'source', does: 'Tells where a table takes newer rows from.', answer: ['SourceTold'] },
  [`PUT ${TABLE}/source`]: {
    id: 'keepSource',
    does: 'Keeps where a table takes newer rows from by itself. The secret is told to nobody again.',
    body: sourceRequestSchema,
    example: {
      source: {
        from: { address: 'https://depot.example/found.csv', signIn: 'none' },
        rhythm: { every: 'day', at: '02:00', zone: 'Etc/UTC' },
        ...{ key: ['Item'], gone: 'keep', most: 5 },
      },
    },
    answer: ['SourceTold'],
  },
  [`DELETE ${TABLE}/source`]: { id: 'endSource', does: 'Ends it that a table takes newer rows by itself.' },
  [`POST ${TABLE}/source/try`]: {
    id: 'trySource',
    does: 'Says what a source would do now, kept or not, and does nothing.',
    body: sourceTrySchema,
    example: {},
    answer: ['Refresh'],
  },
  [`POST ${TABLE}/source/run`]: {
    id: 'runSource',
    does: 'Runs a source now, if it is to be also where it would wait.',
    body: sourceRunSchema,
    example: { anyway: true },
    answer: ['SourceTold'],
  },
  [`POST ${TABLE}/source/leave`]: {
    id: 'leaveSource',
    does: 'Leaves what a source waits for as it is; its rhythm goes on.',
    answer: ['SourceTold'],
  },
  [`GET ${TABLE}/source/runs`]: { id: 'sourceRuns', does: 'Lists the last runs of a source.', answer: ['SourceRuns'] },
  [`DELETE ${TABLE}`]: { id: 'deleteTable', does: 'Deletes a table; the shelf keeps it for 30 days.' },
  [`POST ${TABLE}/restore`]: { id: 'restoreTable', does: 'Brings a deleted table back.', answer: ['TableSummary'] },
  [`GET ${TABLE}/dependents`]: {
    id: 'dependents',
    does: 'Lists the boxes and tables that depend on a table, or on a column of it.',
    query: dependentsQuerySchema,
    answer: ['Dependents'],
  },
  [`POST ${TABLE}/boxes`]: {
    id: 'saveBox',
    does: 'Saves a new box on a table.',
    body: keepBoxSchema,
    example: { box: { format: 'usual-needle box', version: 1, name: 'Look-up', threaded: ['Item'] } },
    status: 201,
    answer: ['StoredBox'],
  },
  [`POST ${TABLE}/earlier`]: {
    id: 'asItWas',
    does: 'Opens a table as it was after an earlier change, to be asked by the number in the answer.',
    body: earlierRequestSchema,
    example: { at: 1 },
    status: 201,
    answer: ['TableSummary'],
  },
  [`GET ${TABLE}/rows`]: {
    id: 'rows',
    does: 'Gives rows in the table’s own order.',
    query: rowsQuerySchema,
    answer: ['RowList'],
  },
  [`PUT ${TABLE}/rows`]: {
    id: 'refresh',
    does: 'Gives a table newer rows, from a file; or says what that would do.',
    query: refreshQuerySchema,
    json: { how: fileChoicesSchema },
    body: 'file',
    answer: ['Refresh'],
  },
  [`GET ${TABLE}/copy`]: {
    id: 'copyOfTable',
    does: 'Gives all rows of a table as CSV, as they were after a change.',
    query: copyQuerySchema,
    answer: CSV,
  },
  ...asks(TABLE, 'a table', 'Table'),
  [`GET ${TABLE}/changes/:number`]: { id: 'change', does: 'Gives one change.', answer: ['Change'] },
  [`POST ${TABLE}/changes/:number/undo`]: {
    id: 'undo',
    does: 'Undoes a change, by a change of its own.',
    body: undoRequestSchema,
    example: {},
    answer: ['Change'],
  },
  [`PATCH ${TABLE}/columns`]: {
    id: 'changeColumn',
    does: 'Renames a column, changes how it is read or shown, or removes it.',
    body: columnChangeSchema,
    example: { name: 'Item', rename: 'Thing' },
    version: true,
    answer: ['TableSummary'],
  },
  [`POST ${TABLE}/columns`]: {
    id: 'addColumn',
    does: 'Adds a blank column, borrows columns from another table, or puts columns in order.',
    body: columnsRequestSchema,
    example: { add: { name: 'Colour', kind: 'text' } },
    version: true,
    answer: ['TableSummary'],
  },
  [`POST ${TABLE}/columns/values`]: {
    id: 'renameValue',
    does: 'Gives one value of a column another name, wherever it stands.',
    body: valueChangeSchema,
    example: { column: 'Item', from: 'umbrela', to: 'umbrella' },
    answer: ['Change'],
  },
  [`GET ${TABLE}/lenders`]: {
    id: 'lenders',
    does: 'Says which tables columns could be borrowed from.',
    answer: ['Lenders'],
  },
  [`POST ${TABLE}/pairing`]: {
    id: 'pairing',
    does: 'Counts how well the columns of two tables fit.',
    body: pairingSchema,
    example: { table: 2, key: 'Item', matches: 'Thing' },
    answer: ['PairingCounts'],
  },
  [`GET ${BOX}`]: { id: 'box', does: 'Gives a box.', answer: ['StoredBox'] },
  [`PUT ${BOX}`]: {
    id: 'changeBox',
    does: 'Changes a box.',
    body: keepBoxSchema,
    example: { box: { format: 'usual-needle box', version: 1, name: 'Look-up', threaded: ['Item'] } },
    version: true,
    answer: ['StoredBox'],
  },
  [`DELETE ${BOX}`]: { id: 'deleteBox', does: 'Deletes a box; the shelf keeps it for 30 days.', version: true },
  [`POST ${BOX}/restore`]: { id: 'restoreBox', does: 'Brings a deleted box back.', answer: ['StoredBox'] },
  [`GET ${BOX}/share`]: { id: 'sharing', does: 'Says how a box is shared.', answer: ['BoxShare'] },
  [`PUT ${BOX}/share`]: {
    id: 'share',
    does: 'Shares a box: with whom, which columns, and what they may do.',
    body: shareSchema,
    example: {
      ...{ everyone: true, people: [], may: ['narrow', 'sort', 'flip'], columns: ['Item'] },
      ...{ searched: [], editable: [], locked: [] },
    },
    answer: ['BoxShare'],
  },
  [`POST ${BOX}/share/link`]: {
    id: 'makeLink',
    does: 'Makes a link to a box; the one of before does not work any more.',
    status: 201,
    answer: ['MadeLink'],
  },
  [`DELETE ${BOX}/share/link`]: { id: 'endLink', does: 'Ends the link to a box.' },
  [`GET ${SHARED}`]: { id: 'open', does: 'Opens a box as its readers have it.', answer: ['OpenedBox'] },
  ...asks(SHARED, 'a box, as its readers may', 'Box'),
  [`GET ${SHARED}/as/:form`]: {
    id: 'rowsByAddress',
    does: 'Gives the rows of a box as its page would show them, as csv, json, ndjson, xlsx, page or take-away; the usual address of the first four is the one of the page with that ending.',
    query: addressQuerySchema,
    files: FILES,
  },
  [`GET ${SHARED}/as/atom`]: {
    id: 'feed',
    does: 'Gives the rows of a box that lately began to match, as a feed (RFC 4287).',
    query: addressQuerySchema,
    answer: 'application/atom+xml',
  },
  [`GET ${SHARED}/opensearch.xml`]: {
    id: 'addressBar',
    does: 'Describes a box to browsers, so that it is searched from the address bar.',
    answer: 'application/opensearchdescription+xml',
  },
  [`GET ${SHARED}/suggestions`]: {
    id: 'suggestions',
    does: 'Gives values that hold what was typed into an address bar.',
    query: suggestionsQuerySchema,
    answer: ['Suggestions'],
    type: 'application/x-suggestions+json',
  },
};
