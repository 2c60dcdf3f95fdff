import { readdirSync, readFileSync } from 'node:fs';
import { Ajv } from 'ajv';
import { boxSchema } from '@usual-needle/contract';

const ROOT = new URL('../../../', import.meta.url);
const json = (path: string): unknown => JSON.parse(readFileSync(new URL(path, ROOT), 'utf8'));

describe('the box file', () => {
  it('has its published schema in step (node tools/publish-schema.mjs)', () => {
    expect(json('docs/box.schema.json')).toEqual(JSON.parse(JSON.stringify(boxSchema)));
  });

  const validate = new Ajv({ strict: false }).compile({ ...boxSchema, $schema: undefined });
  for (const name of readdirSync(new URL('demo/boxes/', ROOT))) {
    it(`describes the demo's ${name}`, () => expect(validate(json(`demo/boxes/${name}`))).toBe(true));
  }

  const wrong: [string, object][] = [
    ['of another version', { format: 'usual-needle box', version: 2 }],
    ['of another format', { format: 'a box', version: 1 }],
    ['with a word of its own', { format: 'usual-needle box', version: 1, colour: 'red' }],
    [
      'with a picker of two sorts',
      { format: 'usual-needle box', version: 1, pickers: [{ column: 'A', values: [], answer: 'yes' }] },
    ],
  ];
  for (const [what, box] of wrong) it(`is refused ${what}`, () => expect(validate(box)).toBe(false));
});
