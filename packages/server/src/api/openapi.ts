/**
 * The description of the interface for programs, made from the matrix of access, the operations and the contract's schemas.
 *
 * Source: OpenAPI Specification 3.1.0; JSON Schema 2020-12; RFC 9457 (problems); RFC 6750 (tokens).
 */
import { ADDRESS_FORMS, PROBLEM_TYPE } from '@usual-needle/contract';
import { FILE_TYPES } from '@usual-needle/formats/light';
import { MATRIX, type AccessRow, type Level } from '../access/matrix.js';
import { ANSWER_SCHEMAS } from './answer-schemas.js';
import { OPERATIONS, type Operation } from './operations.js';

const FOR: Record<Level, string> = {
  anyone: 'For anyone.',
  'signed in': 'For who is signed in.',
  reads: 'For who has the box’s link, or whom it is shared with; within what is open to its readers.',
  keeps: 'For who keeps the table, or builds it.',
  builds: 'For who builds the table.',
  everything: 'For who builds everything.',
};

const named = (name: string): object => ({ $ref: `#/components/schemas/${name}` });
const anyOf = (names: readonly string[]): object =>
  names.length === 1 ? named(names[0]) : { anyOf: names.map(named) };

interface ObjectSchema {
  readonly properties: Readonly<Record<string, object>>;
  readonly required?: readonly string[];
}

const NUMBER = { type: 'integer', minimum: 0 };
const PARTS: Readonly<Record<string, [schema: object, says: string]>> = {
  id: [NUMBER, 'Number of the table, or of the box.'],
  row: [NUMBER, 'Id of the row.'],
  number: [NUMBER, 'Number of the change.'],
  person: [NUMBER, 'Id of the person.'],
  token: [NUMBER, 'Id of the token.'],
  secret: [{ type: 'string' }, 'The last part of the link.'],
  key: [{ type: 'string' }, 'The key that was sent with what is taken out.'],
  form: [{ enum: ADDRESS_FORMS }, 'The form of the rows.'],
  slug: [{ type: 'string' }, 'The last part of the box’s link; or its number, for who is signed in.'],
};

function parametersOf({ path }: AccessRow, { query, json = {}, version }: Operation): object[] {
  const places = [...path.matchAll(/:(\w+)/g)].map(([, name]) => ({
    ...{ name, in: 'path', required: true, schema: PARTS[name][0], description: PARTS[name][1] },
  }));
  const { properties = {}, required = [] } = (query ?? {}) as Partial<ObjectSchema>;
  const queried = Object.entries(properties).map(([name, schema]) => ({
    ...{ name, in: 'query', required: required.includes(name) },
    ...(name in json ? { content: { 'application/json': { schema: json[name] } } } : { schema }),
  }));
  const match = {
    ...{ name: 'If-Match', in: 'header', required: true, schema: { type: 'string' } },
    description: 'The ETag of what was read before: nobody else’s change is overwritten. Or `*`.',
  };
  return [...places, ...queried, ...(version ? [match] : [])];
}

function bodyOf({ body, example }: Operation): object | undefined {
  if (body === undefined) return undefined;
  if (body === 'file') {
    const schema = { type: 'string', format: 'binary' };
    return { required: true, content: Object.fromEntries(FILE_TYPES.map((type) => [type, { schema }])) };
  }
  return { required: true, content: { 'application/json': { schema: body, example } } };
}

/** Gives the status of an answer that is not a problem. */
function statusOf({ status, answer, files }: Operation): number {
  return status ?? (answer === undefined && files === undefined ? 204 : 200);
}

function answersOf(operation: Operation): object {
  const { answer, files = typeof answer === 'string' ? [answer] : undefined, type = 'application/json' } = operation;
  const fileOf = (of: string): object => ({
    schema: /[/+]json$/.test(of) ? { type: 'object' } : { type: 'string' },
  });
  const content = files
    ? Object.fromEntries(files.map((of) => [of, fileOf(of)]))
    : answer && { [type]: { schema: anyOf(answer as readonly string[]) } };
  return {
    [statusOf(operation)]: { description: content ? 'The answer.' : 'It is done.', ...(content && { content }) },
    '4XX': { $ref: '#/components/responses/Problem' },
    '5XX': { $ref: '#/components/responses/Problem' },
  };
}

function operationOf(row: AccessRow, operation: Operation): object {
  const { level, tokens, path } = row;
  const isFree = level === 'anyone' || level === 'reads';
  const ways = [{ cookie: [] }, ...(tokens === 'none' ? [] : [{ token: [] }])];
  return {
    operationId: operation.id,
    summary: operation.does,
    description: `${FOR[level]} ${tokens === 'none' ? 'Not by a token.' : tokens === 'any' ? 'By any token.' : `By a token made ${tokens}.`}`,
    tags: [path.split('/')[2]],
    security: isFree ? [{}, ...ways] : ways,
    parameters: parametersOf(row, operation),
    ...(operation.body !== undefined && { requestBody: bodyOf(operation) }),
    responses: answersOf(operation),
  };
}

/** Makes the description, as an object that becomes JSON. */
export function openApi(): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const row of MATRIX) {
    const path = row.path.replace(/:(\w+)/g, '{$1}');
    (paths[path] ??= {})[row.method.toLowerCase()] = operationOf(row, OPERATIONS[`${row.method} ${row.path}`]);
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Usual Needle',
      version: '1',
      description:
        'Search boxes over shared tables of records. A program signs in, or sends a token; it searches a table by its number, or a box by the last part of its link. Where nobody was made who could sign in, a program on the same machine needs neither.',
    },
    servers: [{ url: '/' }],
    tags: [...new Set(MATRIX.map(({ path }) => path.split('/')[2]))].map((name) => ({ name })),
    paths,
    components: {
      schemas: ANSWER_SCHEMAS,
      securitySchemes: {
        cookie: {
          type: 'apiKey',
          in: 'cookie',
          name: 'usual-needle',
          description: 'As `signIn` sets it; over HTTPS it is called `__Host-usual-needle`.',
        },
        token: { type: 'http', scheme: 'bearer', description: 'A token, as `makeToken` gives it.' },
      },
      responses: {
        Problem: {
          description: 'Why it was not done (RFC 9457).',
          content: { [PROBLEM_TYPE]: { schema: named('Problem') } },
        },
      },
    },
  };
}
