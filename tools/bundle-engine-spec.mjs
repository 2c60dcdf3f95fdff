/** The engine's compiled specs as one file for the browser. */
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { ROOT } from './run.mjs';

const folder = join(ROOT, 'packages/engine/dist-spec');
const specs = readdirSync(folder).filter((name) => name.endsWith('.spec.js'));
await build({
  stdin: { contents: specs.map((name) => `import './${name}';`).join('\n'), resolveDir: folder },
  bundle: true,
  format: 'iife',
  target: 'es2022',
  outfile: join(folder, 'browser.js'),
  logLevel: 'warning',
});
