/**
 * Makes JSON schemas of the answers, by their types: what is said of them in the contract, its comments included, is said once. Reads
 * the contract's types, writes `packages/server/src/api/answer-schemas.ts`.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import TJS from 'typescript-json-schema';
import { ROOT } from './run.mjs';
import * as contract from '../packages/contract/dist/index.js';

const types = join(ROOT, 'packages/contract/dist/index.d.ts');
const modules = { module: 'nodenext', moduleResolution: 'nodenext' };
const program = TJS.getProgramFromFiles([types], { strict: true, skipLibCheck: true, ...modules });
const of = (name) => generator.getSchemaForSymbol(name);
const generator = TJS.buildGenerator(program, { required: true, noExtraProps: true, ref: true, ignoreErrors: true });

const named = {};
/** Definitions that are waiting for their turn, by the name that they are to have. */
const waiting = new Map();
/** Schemas that the contract has as such stand for what its types say of them, which is less. */
const OWN = { Box: 'boxSchema', TableSummary: 'tableSchema', Column: 'columnSchema' };
/** What a type of such a schema becomes, without its descriptions, by which it is known again. */
const known = new Map(Object.keys(OWN).map((name) => [shapeOf(of(name), of(name).definitions), name]));

function shapeOf(schema, definitions) {
  const plain = (value) => {
    if (Array.isArray(value)) return value.map(plain);
    if (typeof value !== 'object' || value === null) return value;
    // Those of named types may lead back to themselves; they are never one of these.
    if (value.$ref) return nameIn(value.$ref).startsWith('{') ? plain(definitions[nameIn(value.$ref)]) : value.$ref;
    const keys = Object.keys(value).filter((key) => !['description', '$schema', 'definitions'].includes(key));
    return Object.fromEntries(keys.sort().map((key) => [key, plain(value[key])]));
  };
  return JSON.stringify(plain(schema));
}

function nameIn(ref) {
  return decodeURIComponent(ref.replace('#/definitions/', ''));
}

/** Members of a schema that have another place, or none, in OpenAPI. */
const ELSEWHERE = new Set(['$schema', 'definitions', 'items', 'additionalItems']);

/** A schema as OpenAPI 3.1 has it (JSON Schema 2020-12): with its references to named ones, and without names that nobody gave. */
function told(schema, definitions) {
  if (Array.isArray(schema)) return schema.map((one) => told(one, definitions));
  if (typeof schema !== 'object' || schema === null) return schema;
  if (schema.$ref) {
    const full = nameIn(schema.$ref);
    const definition = definitions[full];
    const name = known.get(shapeOf(definition, definitions)) ?? /^(?:import\(.*\)\.)?(\w+)$/.exec(full)?.[1];
    if (!name || name.startsWith('__') || name === 'Pick') return told(definition, definitions);
    if (!(name in named) && !waiting.has(name)) waiting.set(name, [definition, definitions]);
    return { $ref: `#/components/schemas/${name}` };
  }
  const name = known.get(shapeOf(schema, definitions));
  if (name && schema.type === 'object' && name in OWN) return { $ref: `#/components/schemas/${name}` };
  const { items } = schema;
  const next = {};
  for (const [key, value] of Object.entries(schema)) {
    if (ELSEWHERE.has(key)) continue;
    next[key] =
      key === 'properties'
        ? Object.fromEntries(Object.entries(value).map(([of, one]) => [of, told(one, definitions)]))
        : told(value, definitions);
  }
  if (Array.isArray(items)) next.prefixItems = told(items, definitions);
  else if (items) next.items = told(items, definitions);
  return next;
}

const answers = of('Answers');
for (const name of Object.keys(answers.properties)) {
  const schema = of(name);
  if (!(name in OWN)) named[name] = told(schema, schema.definitions ?? {});
}
for (let next = [...waiting]; next.length > 0; next = [...waiting])
  for (const [name, [schema, definitions]] of next) {
    waiting.delete(name);
    if (!(name in OWN)) named[name] ??= told({ ...schema }, definitions);
  }
for (const [name, own] of Object.entries(OWN)) named[name] = contract[own];

const sorted = Object.fromEntries(Object.entries(named).sort(([a], [b]) => (a < b ? -1 : 1)));
writeFileSync(
  join(ROOT, 'packages/server/src/api/answer-schemas.ts'),
  `/* Made by tools/build-answer-schemas.mjs. */\nexport const ANSWER_SCHEMAS = JSON.parse(${JSON.stringify(JSON.stringify(sorted))}) as Readonly<Record<string, object>>;\n`,
);
