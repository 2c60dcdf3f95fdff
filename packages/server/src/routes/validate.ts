/** Bodies and queries, checked against the contract before anything else looks at them. */
import { Ajv, type AnySchema, type ErrorObject, type ValidateFunction } from 'ajv';
import { HttpProblem } from './problems.js';

const bodies = new Ajv({ allErrors: true });
const queries = new Ajv({ allErrors: true, coerceTypes: true, useDefaults: true });

function describe(errors: ErrorObject[] | null | undefined): string {
  return (errors ?? [])
    .map(({ instancePath, message }) => `${instancePath || 'it'} ${message ?? 'is wrong'}`)
    .join('; ');
}

function checker<T>(validate: ValidateFunction, what: string): (value: unknown) => T {
  return (value) => {
    if (validate(value)) return value as T;
    throw new HttpProblem(400, `The ${what} cannot be read`, describe(validate.errors));
  };
}

/** @typeParam T what the schema describes */
export function bodyOf<T>(schema: AnySchema): (value: unknown) => T {
  return checker<T>(bodies.compile(schema), 'request');
}

/** Numbers in a query come as text and are read as numbers; defaults are filled in. */
export function queryOf<T>(schema: AnySchema): (value: unknown) => T {
  const check = checker<T>(queries.compile(schema), 'address');
  return (value) => check({ ...(value as object) });
}
