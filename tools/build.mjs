/** Builds everything that has changed: TypeScript projects, then the interface. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureInstalled, must, once, ROOT, SOURCES } from './run.mjs';

await ensureInstalled();
if (process.argv.includes('--fresh')) rmSync(join(ROOT, 'node_modules/.usual-needle/built'), { force: true });
await once('built', SOURCES, async () => {
  await must('npx', ['--no-install', 'tsc', '-b']);
  await must('npx', ['--no-install', 'ng', 'build'], { cwd: join(ROOT, 'packages/web') });
});
