/**
 * Puts the server's program together in few files (`packages/server/dist-bundle`): most of a start would go into finding and reading
 * some hundred small ones. What reads files of its own beside it is left where it is.
 */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { ROOT } from './run.mjs';

const server = join(ROOT, 'packages/server');

rmSync(join(server, 'dist-bundle'), { recursive: true, force: true });
await build({
  entryPoints: ['main', 'backup', 'threads/host.worker', 'take-out/writer.worker', 'data/embedded.worker'].map((name) =>
    join(server, `dist/${name}.js`),
  ),
  outdir: join(server, 'dist-bundle'),
  entryNames: '[name]',
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  sourcemap: false,
  logLevel: 'warning',
  external: ['@electric-sql/pglite', '@node-rs/argon2', 'pg-native', 'bufferutil', 'utf-8-validate'],
  // Of packages in the older form of modules, which call it.
  banner: {
    js: "import { createRequire as requireHere } from 'node:module';\nconst require = requireHere(import.meta.url);",
  },
});
