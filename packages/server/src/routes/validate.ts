/** Bodies and queries, checked against the contract before anything else looks at them. */
import { Ajv, type AnySchema, type ErrorObject, type ValidateFunction } from 'ajv';
import { HttpProblem } from './http-problem.js';

// The first thing that is wrong is told, and no more: to collect sixty thousand would keep everybody waiting.
const bodies = new Ajv();
// A number too large to be one is held against its maximum, too: otherwise none of a number's limits would apply to it.
const queries = new Ajv({ coerceTypes: true, useDefaults: true, strictNumbers: false });

/** Letters of a place in a body that are told: names in it are the sender's. */
const PLACE = 200;

function describe(errors: ErrorObject[] | null | undefined): string {
  const [first] = errors ?? [];
  if (!first) return 'It is not as it should be.';
  const { instancePath, message, params } = first;
  const extra = (params as { additionalProperty?: string }).additionalProperty;
  const place = instancePath.slice(0, PLACE) || 'it';
  return `${place} ${message ?? 'is wrong'}${extra === undefined ? '' : `: “${extra.slice(0, PLACE)}”`}`;
}

/** Compiled when it is first needed: at a start none of them is. */
function checker<T>(compile: () => ValidateFunction, what: string): (value: unknown) => T {
  let validate: ValidateFunction | undefined;
  return (value) => {
    validate ??= compile();
    if (validate(value)) return value as T;
    throw new HttpProblem(400, `The ${what} cannot be read`, describe(validate.errors));
  };
}

/** @typeParam T what the schema describes */
export function bodyOf<T>(schema: AnySchema): (value: unknown) => T {
  return checker<T>(() => bodies.compile(schema), 'request');
}

/** Numbers in a query come as text and are read as numbers; defaults are filled in. */
export function queryOf<T>(schema: AnySchema): (value: unknown) => T {
  const check = checker<T>(() => queries.compile(schema), 'address');
  return (value) => check({ ...(value as object) });
}
