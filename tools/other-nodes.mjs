/**
 * Runs the built program on the versions of Node that are promised besides the one that builds it: it starts with the demo, finds,
 * edits, ends, and starts again with what was edited. They come from the package registry, beside `node_modules`, once.
 */
import assert from 'node:assert/strict';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { freshServer } from './fresh-server.mjs';
import { must, once, ROOT, run } from './run.mjs';

const VERSIONS = ['22', '24'];
const folder = join(ROOT, 'node_modules/.usual-needle/nodes');
const system = `${process.platform === 'win32' ? 'win' : process.platform}-${process.arch}`;

await once('nodes-there', ['tools/other-nodes.mjs'], () =>
  must(
    'npm',
    ['install', '--prefix', folder, '--no-save', '--no-audit', '--no-fund', '--loglevel=error'].concat(
      VERSIONS.map((version) => `node${version}@npm:node-${system}@${version}`),
    ),
  ),
);

async function asked(address, path, body) {
  const reply = await fetch(`${address}/api/tables/1/${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  assert.equal(reply.status, 200, `${path} is answered`);
  return reply.json();
}

async function tried(node) {
  const question = (text) => ({ question: { threaded: ['Description'], strands: [{ verb: 'find', text }] } });
  const first = await freshServer({ node });
  assert.ok((await asked(first.address, 'search', question('umbrella'))).matched > 100, 'the demo is searched');
  const changed = [{ id: 1, was: [null], now: ['a lantern of brass'] }];
  await asked(first.address, 'changes', { key: 'other-nodes', kind: 'edited', columns: ['Description'], changed });
  await first.stop({ keep: true });
  const again = await freshServer({ node, data: first.data });
  assert.equal(
    (await asked(again.address, 'search', question('"lantern of brass"'))).matched,
    1,
    'what was edited stays',
  );
  await again.stop();
}

for (const version of VERSIONS) {
  const node = join(folder, `node_modules/node${version}/bin/node`);
  const { code, output } = await run(node, ['--version'], { quiet: true });
  if (code !== 0) {
    // What cannot be run is fetched anew the next time.
    rmSync(join(ROOT, 'node_modules/.usual-needle/nodes-there'), { force: true });
    throw new Error(`Node ${version} does not run here`);
  }
  await tried(node);
  console.log(`Node ${output.trim()}: starts, finds, edits, and starts again`);
}
