import { Ajv, type AnySchema } from 'ajv';
import * as contract from '@usual-needle/contract';
import { HttpProblem } from '../dist/routes/http-problem.js';
import { bodyOf, compileAll, queryOf } from '../dist/routes/validate.js';

const schemas = Object.entries(contract).filter(([name]) => name.endsWith('Schema')) as [string, AnySchema][];

describe('what comes in is held against schemas', () => {
  it('that are schemas themselves: no start has to see to that', () => {
    expect(schemas.length).toBeGreaterThan(20);
    const draft = new Ajv({ strictNumbers: false });
    // That of a box is published as one of a later draft; it keeps to what both have.
    for (const [name, schema] of schemas)
      expect(draft.validateSchema({ ...(schema as object), $schema: undefined }))
        .withContext(name)
        .toBeTrue();
  });

  it('that answer alike whether they were compiled beforehand or not', async () => {
    const schema = { type: 'object', required: ['limit'], properties: { limit: { type: 'integer', maximum: 5 } } };
    const early = bodyOf<{ limit: number }>(schema);
    const query = queryOf<{ limit: number }>(schema);
    await compileAll();
    const late = bodyOf<{ limit: number }>(schema);
    for (const check of [early, late]) {
      expect(check({ limit: 3 })).toEqual({ limit: 3 });
      expect(() => check({ limit: 6 })).toThrowError(HttpProblem);
      expect(() => check({ limit: '3' })).toThrowError(HttpProblem);
    }
    expect(query({ limit: '3' })).toEqual({ limit: 3 });
    expect(() => query({ limit: '1e999' })).toThrowError(HttpProblem);
  });
});
