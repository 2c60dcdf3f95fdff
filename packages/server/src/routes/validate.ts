/** Bodies and queries, checked against the contract before anything else looks at them. */
import { setImmediate } from 'node:timers/promises';
import { Ajv, type AnySchema, type ErrorObject, type Options, type ValidateFunction } from 'ajv';
import { HttpProblem } from './http-problem.js';

// The first thing that is wrong is told, and no more: to collect sixty thousand would keep everybody waiting. The schemas are our
// own; that they are such is seen to by the tests, and need not be at a start. Nor is the code of a check made shorter before it is
// compiled: that would take two fifths of the time, and V8 does it anyway.
const USUAL: Options = { validateSchema: false, code: { optimize: false } };
const bodies = new Ajv(USUAL);
// A number too large to be one is held against its maximum, too: otherwise none of a number's limits would apply to it.
const queries = new Ajv({ ...USUAL, coerceTypes: true, useDefaults: true, strictNumbers: false });

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

/** Checks that are not compiled yet. */
const uncompiled: (() => void)[] = [];

/** Compiled when it is first needed, or when there is nothing else to do. */
function checker<T>(compile: () => ValidateFunction, what: string): (value: unknown) => T {
  let validate: ValidateFunction | undefined;
  const compiled = (): ValidateFunction => (validate ??= compile());
  uncompiled.push(compiled);
  return (value) => {
    const validate = compiled();
    if (validate(value)) return value as T;
    throw new HttpProblem(400, `The ${what} cannot be read`, describe(validate.errors));
  };
}

/** Compiles what there is, a little at a time: while a start waits for something else. */
export async function compileAll(): Promise<void> {
  for (const compile of uncompiled.splice(0)) {
    compile();
    await setImmediate();
  }
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
