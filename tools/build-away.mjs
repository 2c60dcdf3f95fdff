/** Builds the page that stands in while the server is away or starting, and the worker that shows it: see `packages/web/src/away`. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { ROOT } from './run.mjs';

const from = join(ROOT, 'packages/web/src/away');
const to = join(ROOT, 'packages/web/dist/browser');
const usual = { bundle: true, minify: true, format: 'iife', target: 'es2022', write: false, logLevel: 'warning' };

async function built(name, more = {}) {
  const { outputFiles } = await build({ ...usual, ...more, entryPoints: [join(from, name)] });
  return outputFiles[0].text;
}

const script = await built('away.ts');
const page = readFileSync(join(from, 'away.html'), 'utf8').replace(
  '<script></script>',
  () => `<script>${script}</script>`,
);
writeFileSync(join(to, 'away.html'), page);
writeFileSync(
  join(to, 'away-worker.js'),
  await built('away-worker.ts', { define: { AWAY_PAGE: JSON.stringify(page) } }),
);
