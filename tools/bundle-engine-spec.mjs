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
/** A case in so many that are tried in Node: whether the platform does what is asked of it is seen by fewer. */
const ONE_IN = 4;
/** Stands in for fast-check: the same, with fewer cases for each property. */
const fewerCases = {
  name: 'fewer cases',
  setup(building) {
    building.onResolve({ filter: /^fast-check$/ }, ({ namespace }) =>
      namespace === 'fewer' ? undefined : { path: 'fast-check', namespace: 'fewer' },
    );
    building.onLoad({ filter: /.*/, namespace: 'fewer' }, () => ({
      contents: `import fc from 'fast-check';
        const assert = (property, options = {}) =>
          fc.assert(property, { ...options, numRuns: Math.ceil((options.numRuns ?? 100) / ${ONE_IN}) });
        export default { ...fc, assert };`,
      resolveDir: folder,
    }));
  },
};
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
  plugins: [fewerCases],
});
