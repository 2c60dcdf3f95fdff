import { execFile } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { Validator } from '@seriousme/openapi-schema-validator';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { MATRIX } from '../dist/access/matrix.js';
import { OPERATIONS } from '../dist/api/operations.js';
import { DESCRIPTION } from './as-described.js';
import { Asker, comes, PASSWORD } from './people.js';
import { Running } from './running.js';

const run = promisify(execFile);

describe('The description for other programs', () => {
  it('is OpenAPI 3.1', async () => {
    const found = await new Validator().validate(structuredClone(DESCRIPTION) as never);
    expect(found).toEqual({ valid: true });
    expect(DESCRIPTION).toEqual(jasmine.objectContaining({ openapi: '3.1.0' }));
  });

  it('has each route of the matrix, and no other', () => {
    expect(Object.keys(OPERATIONS).sort()).toEqual(MATRIX.map(({ method, path }) => `${method} ${path}`).sort());
    const ids = Object.values(OPERATIONS).map(({ id }) => id);
    expect(new Set(ids).size).toBe(ids.length);
  });

  it('has examples that are what it says, and each schema that it names', () => {
    const ajv = new Ajv2020({ strict: false, validateFormats: false });
    for (const { id, body, example } of Object.values(OPERATIONS)) {
      if (typeof body !== 'object') continue;
      expect(ajv.validate(body, example)).withContext(`${id}: ${ajv.errorsText()}`).toBeTrue();
    }
    const text = JSON.stringify(DESCRIPTION);
    for (const [, name] of text.matchAll(/#\/components\/schemas\/(\w+)/g))
      expect(DESCRIPTION.components.schemas[name]).withContext(name).toBeDefined();
  });

  it('describes each query and body that a route checks by', () => {
    const folder = new URL('../src/routes/', import.meta.url);
    const operations = readFileSync(new URL('../src/api/operations.ts', import.meta.url), 'utf8');
    const sources = readdirSync(folder).filter((file) => file.endsWith('.ts') && file !== 'standing.ts');
    const checked = sources
      .map((file) => readFileSync(new URL(file, folder), 'utf8'))
      .flatMap((source) => [...source.matchAll(/= (?:bodyOf|queryOf)<\w+>\((\w+)\)/g)].map(([, name]) => name));
    expect(checked.length).toBeGreaterThan(30);
    for (const name of checked)
      expect(operations)
        .withContext(name)
        .toMatch(new RegExp(`: ${name}\\b`));
  });

  it('is enough for a stranger with curl, who signs in, searches and takes rows out', async () => {
    const running = await Running.start(false);
    const folder = await mkdtemp(join(tmpdir(), 'usual-needle-stranger-'));
    try {
      const everything = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
      await everything.ask('POST', '/api/tables?name=Found', 'Item,Status\nblack umbrella,Held\ncap,Sold\n');
      const script = new URL('../spec/stranger.sh', import.meta.url).pathname;
      const { stdout } = await run('bash', [script, running.server.address, 'M. Lind', PASSWORD, 'umbrella', folder]);
      expect(stdout.trim().split('\n')).toEqual(['1 of 2 rows', 'black umbrella,Held', 'taken out: 3 lines']);
      expect(await readFile(join(folder, 'rows.csv'), 'utf8')).toBe(
        'Item,Status\r\nblack umbrella,Held\r\ncap,Sold\r\n',
      );
    } finally {
      await running.end();
      await rm(folder, { recursive: true, force: true });
    }
  });
});
