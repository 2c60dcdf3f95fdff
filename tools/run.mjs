/** What the scripts of this folder share: running commands, and knowing what is already done. */
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = fileURLToPath(new URL('..', import.meta.url));

/** Runs a command to its end, its output shown and returned. */
export function run(command, args, options = {}) {
  return new Promise((done, fail) => {
    const child = spawn(command, args, {
      cwd: ROOT,
      env: { ...process.env, ...options.env },
      stdio: ['ignore', 'pipe', 'pipe'],
      ...(options.cwd && { cwd: options.cwd }),
    });
    let output = '';
    for (const [from, to] of [
      [child.stdout, process.stdout],
      [child.stderr, process.stderr],
    ]) {
      from.on('data', (data) => {
        output += data;
        if (!options.quiet) to.write(data);
      });
    }
    child.on('error', fail);
    child.on('close', (code) => done({ code, output }));
  });
}

/** As `run`, but a command that fails ends the script. */
export async function must(command, args, options = {}) {
  const result = await run(command, args, options);
  if (result.code !== 0) {
    if (options.quiet) process.stderr.write(result.output);
    console.error(`${command} ${args.join(' ')} failed`);
    process.exit(1);
  }
  return result.output;
}

/** Names of what is made by the build, and so is no reason to build again. */
const NOT_SOURCES = [
  ...['node_modules', 'dist', 'dist-spec', 'dist-bundle', 'dist-template', '.angular'],
  ...['answer-schemas.ts', 'box-validators.js'],
];

function fingerprint(paths) {
  const hash = createHash('sha256');
  const add = (path) => {
    const info = statSync(path, { throwIfNoEntry: false });
    if (!info) return;
    if (info.isDirectory()) {
      for (const name of readdirSync(path).sort()) {
        if (!NOT_SOURCES.includes(name)) add(join(path, name));
      }
    } else hash.update(`${path}\n`).update(readFileSync(path));
  };
  for (const path of paths) add(join(ROOT, path));
  return hash.digest('hex');
}

/** Does the work unless it was done for exactly these files. */
export async function once(name, paths, work) {
  const stamp = join(ROOT, 'node_modules', '.usual-needle', name);
  const now = fingerprint(paths);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return false;
  await work();
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, now);
  return true;
}

export async function ensureInstalled() {
  await once('installed', ['package-lock.json'], () =>
    must('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { quiet: false }),
  );
}

export const SOURCES = [
  'package-lock.json',
  'tsconfig.json',
  'tsconfig.base.json',
  'packages',
  'demo/src',
  'bench',
  'tools/build.mjs',
  'tools/build-answer-schemas.mjs',
  'tools/build-away.mjs',
  'tools/build-validators.mjs',
  'tools/bundle-server.mjs',
];

export async function ensureBuilt() {
  const made = [
    'packages/server/dist-bundle/main.js',
    'packages/web/dist/browser/index.html',
    'packages/web/src/common/box-validators.js',
    'packages/server/src/api/answer-schemas.ts',
    'packages/server/dist-template/pg',
  ];
  if (!made.every((file) => existsSync(join(ROOT, file)))) await must('node', ['tools/build.mjs', '--fresh']);
  else await must('node', ['tools/build.mjs']);
}

const ROOT_USER = process.getuid?.() === 0;

async function aptInstall(name) {
  const quiet = { env: { DEBIAN_FRONTEND: 'noninteractive' }, quiet: true };
  if ((await run('apt-get', ['update', '-qq'], quiet)).code !== 0) return false;
  return (await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', name], quiet)).code === 0;
}

/**
 * Finds Debian's Chromium, and installs it if it is missing and we may.
 * @param names packages of Debian, each with its program of the same name, the best one first: `chromium-headless-shell` draws for
 * no screen, so it takes a third less of the machine. `CHROMIUM` names another program
 * @returns the path of the program
 */
export async function ensureChromium(names = ['chromium']) {
  const { CHROMIUM } = process.env;
  const paths = CHROMIUM ? [CHROMIUM] : names.map((name) => `/usr/bin/${name}`);
  if (existsSync(paths[0])) return paths[0];
  for (const [i, name] of names.entries())
    if (existsSync(paths[i]) || (!CHROMIUM && ROOT_USER && (await aptInstall(name)))) return paths[i];
  console.error(
    `The interface is tested in Chromium, which is not at ${paths.join(' or ')}. Install it, or name it by CHROMIUM.`,
  );
  process.exit(1);
}
