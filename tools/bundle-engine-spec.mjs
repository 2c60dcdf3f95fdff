/**
 * The engine's compiled specs as one file for the browser: those of what it asks the platform for. The others, which hold its own
 * machines against each other, run in Node only, since the browser has the same V8 and finds the same after the same time.
 */
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { ROOT } from './run.mjs';

const folder = join(ROOT, 'packages/engine/dist-spec');
const IN_NODE_ONLY = [
  'beside',
  'by-chunks',
  'chunks',
  'each-text',
  'growing',
  'kind-index',
  'rows-by-value',
  'sorted-edits',
];
const specs = readdirSync(folder).filter(
  (name) => name.endsWith('.spec.js') && !IN_NODE_ONLY.includes(name.replace('.spec.js', '')),
);
await build({
  stdin: { contents: specs.map((name) => `import './${name}';`).join('\n'), resolveDir: folder },
  bundle: true,
  format: 'iife',
  target: 'es2022',
  outfile: join(folder, 'browser.js'),
  logLevel: 'warning',
});
