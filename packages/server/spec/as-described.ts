/** Holds answers of a server against its own description: whatever a test is about, the answers that it gets are also looked at for this. */
import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import { openApi } from '../dist/api/openapi.js';
import { ruleOf } from '../dist/routes/allowed.js';

interface Described {
  readonly paths: Record<string, Record<string, { readonly responses: Record<string, Response> }>>;
  readonly components: { readonly schemas: Record<string, object>; readonly responses: Record<string, Response> };
}
interface Response {
  readonly $ref?: string;
  readonly content?: Record<string, { readonly schema: object }>;
}

export const DESCRIPTION = openApi() as Described;

const ajv = new Ajv2020({ strict: false, validateFormats: false });
ajv.addSchema({ $id: 'api', ...DESCRIPTION });

const checks = new Map<string, ValidateFunction>();
function checkOf(schema: object): ValidateFunction {
  const key = JSON.stringify(schema);
  const made = checks.get(key) ?? ajv.compile(JSON.parse(key.replaceAll('"#/', '"api#/')) as object);
  checks.set(key, made);
  return made;
}

/** @throws if an answer is not among those that the description has for its route */
export function mustBeAsDescribed(method: string, address: string, status: number, type: string, body: unknown): void {
  const [path] = address.split('?');
  const row = ruleOf(method, path);
  // Of an address that is none only a problem can be told.
  if (!row && (status < 400 || !path.startsWith('/api/'))) return;
  const responses = row
    ? DESCRIPTION.paths[row.path.replace(/:(\w+)/g, '{$1}')][row.method.toLowerCase()].responses
    : { '4XX': DESCRIPTION.components.responses['Problem'] };
  const response = responses[status] ?? responses[`${Math.floor(status / 100)}XX`];
  // Not changed since it was asked for.
  if (status === 304 || method === 'HEAD') return;
  const fail = (why: string): never => {
    throw new Error(`${method} ${address}, ${status}: ${why}`);
  };
  if (!response) return fail('no such status is described');
  const { content } = response.$ref ? DESCRIPTION.components.responses['Problem'] : response;
  if (!content) return type === '' ? undefined : fail(`nothing is described, and ${type} came`);
  const described = content[type] ?? fail(`${type} is not described, but ${Object.keys(content).join(', ')}`);
  if (!type.endsWith('json')) return;
  const check = checkOf(described.schema);
  if (!check(body)) fail(`${JSON.stringify(check.errors?.slice(0, 3))} of ${JSON.stringify(body).slice(0, 500)}`);
}
