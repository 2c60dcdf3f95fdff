/**
 * `npm run package`: puts all that runs into one tarball, `dist/usual-needle-VERSION.tgz`, which `npm install -g` takes. In it everything is
 * built; it fetches two packages at its install, those of the database and of passwords, which come built, too.
 */
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { build } from 'esbuild';
import { ensureBuilt, ensureInstalled, must, ROOT } from './run.mjs';

const OUT = join(ROOT, 'dist');
const PACKAGE = join(OUT, 'package');
const read = (path) => JSON.parse(readFileSync(join(ROOT, path), 'utf8'));

/** A package keeps no empty folder, and a database has some that it needs: their names are kept instead. */
function emptyFolders(folder, from = folder) {
  const inside = readdirSync(folder);
  if (inside.length === 0) return [relative(from, folder)];
  return inside
    .map((name) => join(folder, name))
    .filter((path) => statSync(path).isDirectory())
    .flatMap((path) => emptyFolders(path, from));
}

await ensureInstalled();
// In `npm test` it is built already, and others are using it.
if (!process.argv.includes('--as-built')) await ensureBuilt();
rmSync(OUT, { recursive: true, force: true });
mkdirSync(PACKAGE, { recursive: true });
for (const path of [
  'packages/server/dist-bundle',
  'packages/server/dist-template',
  'packages/server/migrations',
  'packages/web/dist/browser',
  'packages/web/dist/take-away.html',
  'packages/cli/bin',
  'demo/data',
  'demo/boxes',
  'README.md',
])
  cpSync(join(ROOT, path), join(PACKAGE, path), { recursive: true });
await build({
  entryPoints: [join(ROOT, 'packages/cli/dist/main.js')],
  outdir: join(PACKAGE, 'packages/cli/dist'),
  ...{ bundle: true, splitting: true, format: 'esm', platform: 'node', target: 'node20', logLevel: 'warning' },
  banner: {
    js: "import { createRequire as requireHere } from 'node:module';\nconst require = requireHere(import.meta.url);",
  },
});
const template = join(PACKAGE, 'packages/server/dist-template');
writeFileSync(join(template, 'empty-folders.json'), JSON.stringify(emptyFolders(join(template, 'pg'))));
const { version, engines, license, description } = read('package.json');
const { dependencies } = read('packages/server/package.json');
const needed = ['@electric-sql/pglite', '@node-rs/argon2'];
writeFileSync(
  join(PACKAGE, 'package.json'),
  JSON.stringify(
    {
      ...{ name: 'usual-needle', version, description, license, type: 'module', engines },
      bin: { 'usual-needle': 'packages/cli/bin/usual-needle.js' },
      dependencies: Object.fromEntries(needed.map((name) => [name, dependencies[name]])),
    },
    null,
    2,
  ),
);
await must('npm', ['pack', '--silent', '--pack-destination', OUT, PACKAGE]);
console.log(`dist/usual-needle-${version}.tgz`);
