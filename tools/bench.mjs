/** `npm run bench`: builds what is needed and runs the benchmarks. */
import { join } from 'node:path';
import { ensureBuilt, ensureChromium, ensureInstalled, must, ROOT } from './run.mjs';

await ensureInstalled();
const chromium = await ensureChromium();
await ensureBuilt();
await must(
  process.execPath,
  ['--expose-gc', '--max-old-space-size=12000', join(ROOT, 'bench/dist/main.js'), ...process.argv.slice(2)],
  {
    env: { CHROMIUM: chromium },
  },
);
