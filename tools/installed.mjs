/**
 * Installs the package into an empty folder, as whoever runs a server does, and tries it: it starts within its time, answers, backs up
 * and restores what it keeps, and says how it is used.
 */
import assert from 'node:assert/strict';
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { must, ROOT } from './run.mjs';

/** From the start of the command to the first answer, in milliseconds: measured on a machine that does much else besides. */
const STARTED_MS = 15_000;

await must(process.execPath, [join(ROOT, 'tools/package.mjs'), '--as-built']);
const folder = mkdtempSync(join(tmpdir(), 'usual-needle-installed-'));
try {
  writeFileSync(join(folder, 'package.json'), '{}');
  const { version } = JSON.parse(readFileSync(join(ROOT, 'package.json'), 'utf8'));
  const tarball = join(ROOT, `dist/usual-needle-${version}.tgz`);
  await must('npm', ['install', '--prefix', folder, '--no-audit', '--no-fund', '--loglevel=error', tarball]);
  const command = join(folder, 'node_modules/.bin/usual-needle');
  const run = (...args) => spawnSync(command, args, { cwd: folder, encoding: 'utf8' });
  const servers = [];
  process.on('exit', () => servers.forEach((server) => server.kill('SIGKILL')));
  const serve = async (data, ...more) => {
    const server = spawn(command, ['serve', '--port', '0', '--data', data, ...more], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, LOG_LEVEL: 'warn' },
    });
    servers.push(server);
    const [said] = await once(server.stdout, 'data');
    const [address] = /http:\S+/.exec(String(said));
    while (!(await fetch(`${address}/api/health/ready`)).ok) await new Promise((done) => setTimeout(done, 100));
    const stop = async () => {
      server.kill('SIGTERM');
      await once(server, 'exit');
    };
    return { address, stop };
  };

  const begun = performance.now();
  const first = await serve('first');
  const took = performance.now() - begun;
  console.log(`It was ready, with the demo, after ${Math.round(took)} ms`);
  assert.ok(took < STARTED_MS, `it was ready after ${took} ms`);
  assert.ok((await (await fetch(`${first.address}/`)).text()).includes('<base href="/"'), 'the interface is there');
  const found = run('find', '1', 'umbrella', '--server', first.address, '--out', 'count');
  assert.ok(Number(found.stdout) > 100, `the demo is searched: ${found.stdout}${found.stderr}`);
  const page = run('find', '1', 'umbrella', '--server', first.address, '--out', 'page', '--to', 'page.html');
  assert.equal(page.status, 0, page.stderr);
  assert.match(run('serve', '--help').stdout, /^Usage: usual-needle serve/);
  assert.match(run('--help').stdout, /backup/);

  const kept = run('backup', '--server', first.address, '--to', 'kept.backup');
  assert.equal(kept.status, 0, kept.stderr);
  await first.stop();
  const back = run('restore', '--from', 'kept.backup', '--data', 'second');
  assert.equal(back.status, 0, back.stderr);
  const second = await serve('second', '--no-demo');
  const again = run('find', '1', 'umbrella', '--server', second.address, '--out', 'count');
  assert.equal(again.stdout, found.stdout, 'what was backed up is there');
  await second.stop();
} finally {
  rmSync(folder, { recursive: true, force: true });
}
