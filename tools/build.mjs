/** Builds everything that has changed: TypeScript projects, then the interface. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureInstalled, must, once, ROOT, SOURCES } from './run.mjs';

await ensureInstalled();
if (process.argv.includes('--fresh')) {
  for (const stamp of ['built', 'template']) rmSync(join(ROOT, 'node_modules/.usual-needle', stamp), { force: true });
}
await once('built', SOURCES, async () => {
  // The interface needs nothing else, and is built beside the rest.
  await must('npx', ['--no-install', 'tsc', '-b', 'packages/formats', 'packages/host']);
  await Promise.all([web(), server()]);
});

async function web() {
  await must(process.execPath, [join(ROOT, 'tools/build-validators.mjs')]);
  await must('npx', ['--no-install', 'ng', 'build'], { cwd: join(ROOT, 'packages/web') });
  await must(process.execPath, [join(ROOT, 'tools/build-away.mjs')]);
  await must(process.execPath, [join(ROOT, 'tools/build-take-away.mjs')]);
}

async function server() {
  await must(process.execPath, [join(ROOT, 'tools/build-answer-schemas.mjs')]);
  await must('npx', ['--no-install', 'tsc', '-b']);
  await must(process.execPath, [join(ROOT, 'tools/bundle-server.mjs')]);
  await once('template', ['package-lock.json', 'packages/server/migrations', 'packages/server/src/data'], () =>
    must(process.execPath, [join(ROOT, 'packages/server/dist/data/make-template.js')]),
  );
}
