/**
 * Makes the checks of boxes that come from outside, by Ajv's standalone code: a page may not make code while it runs, and the whole
 * compiler would be too much to load. Reads the contract's schema, writes `packages/web/src/common/box-validators.js`.
 */
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { build } from 'esbuild';
import { ROOT } from './run.mjs';

const require = createRequire(join(ROOT, 'packages/server/package.json'));
const { Ajv } = require('ajv');
const standaloneCode = require('ajv/dist/standalone').default;
const { boxSchema } = await import('../packages/contract/dist/index.js');

// The first thing that is wrong is enough: what is wrong is left out, and not mended.
const ajv = new Ajv({ code: { source: true, esm: true, lines: false }, validateSchema: false, messages: false });
const names = new Map();
const add = (key, schema) => {
  const name = `check${names.size}`;
  names.set(key, name);
  ajv.addSchema(schema, name);
};
for (const [key, schema] of Object.entries(boxSchema.properties)) {
  add(key, schema);
  if (schema.items) add(`${key} items`, schema.items);
}
const code = standaloneCode(ajv, Object.fromEntries([...names.values()].map((name) => [name, name])));
const parts = [...names].map(([key, name]) => `${JSON.stringify(key)}: ${name}`).join(', ');
await build({
  stdin: {
    contents: `import * as made from 'made';\nconst { ${[...names.values()].join(', ')} } = made;\nexport const CHECKS = { ${parts} };`,
    resolveDir: ROOT,
  },
  plugins: [
    {
      name: 'made',
      setup(on) {
        on.onResolve({ filter: /^made$/ }, () => ({ path: 'made', namespace: 'made' }));
        on.onLoad({ filter: /.*/, namespace: 'made' }, () => ({
          contents: code,
          resolveDir: join(ROOT, 'packages/server'),
        }));
      },
    },
  ],
  bundle: true,
  minify: true,
  format: 'esm',
  target: 'es2022',
  logLevel: 'warning',
  outfile: join(ROOT, 'packages/web/src/common/box-validators.js'),
});
