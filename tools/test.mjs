/** `npm test`: installs what is missing, checks the code, runs every suite, and ends with `N passed, N failed`. */
import { chmodSync, mkdtempSync, rmSync, statfsSync } from 'node:fs';
import { freemem } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensureChromium, ensureInstalled, must, ROOT, run } from './run.mjs';

// What is fetched for the one and what is worked for the other do not wait for each other.
// Web units need the whole browser: under `chromium-headless-shell` Karma never hears from them.
const browsers = async () => [
  await ensureChromium(['chromium']),
  await ensureChromium(['chromium-headless-shell', 'chromium']),
];
const [[chromium, shell]] = await Promise.all([browsers(), ensureInstalled().then(ensureBuilt)]);

const MEMORY = '/dev/shm';
const NEEDED_BYTES = 6 * 1024 ** 3;

/**
 * Makes a folder in memory for what the tests write for a while: each of some three hundred servers writes a database of 450 files, which
 * takes a disk a second. Where whoever runs this has said another place, or memory is short, there is none.
 */
function folderInMemory() {
  if (process.env.TMPDIR) return undefined;
  try {
    const { bavail, bsize } = statfsSync(MEMORY);
    if (bavail * bsize < NEEDED_BYTES || freemem() < 2 * NEEDED_BYTES) return undefined;
    const folder = mkdtempSync(join(MEMORY, 'usual-needle-tests-'));
    // As a folder for everybody's such files is: a PostgreSQL is run by a user of its own.
    chmodSync(folder, 0o1777);
    process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
    // Memory that nobody gives back would be missed.
    for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => process.exit(1));
    return folder;
  } catch {
    return undefined;
  }
}

const forNow = folderInMemory();
const env = { CHROME_BIN: chromium, CHROMIUM: shell, ...(forNow && { TMPDIR: forNow }) };

const ENGINE = join(ROOT, 'packages/engine');

/** An output without its colours, which are control characters. */
const plain = (output) => output.replace(/\u001b\[[0-9;?]*[A-Za-z]/g, '');

/** Name, command, arguments, folder, and how the closing line is read: passed, failed, and left out. */
const jasmine = (output) => {
  const match = /(\d+) specs?, (\d+) failures?(?:, (\d+) pending specs?)?/.exec(output);
  if (!match) return undefined;
  const [specs, failures, leftOut] = match.slice(1).map((count) => Number(count ?? 0));
  return [specs - failures - leftOut, failures, leftOut];
};
const karma = (colored) => {
  const output = plain(colored);
  const lines = [...output.matchAll(/Executed (\d+) of (\d+)(?: \((\d+) FAILED\))?[^\n\r]*/g)];
  const last = lines.at(-1);
  if (!last || last[1] !== last[2]) return undefined;
  const failed = Number(last[3] ?? 0);
  return [Number(last[2]) - failed, failed];
};
const playwright = (output) => {
  const count = (word) => Number(new RegExp(`^\\s+(\\d+) ${word}`, 'm').exec(output)?.[1] ?? 0);
  const passed = count('passed');
  const failed = count('failed') + count('skipped') + count('did not run');
  return passed + failed > 0 ? [passed, failed] : undefined;
};

const inNode = (name, folder, config = 'jasmine.json') => [
  name,
  'npx',
  ['--no-install', 'jasmine', `--config=${config}`],
  join(ROOT, 'packages', folder),
  jasmine,
];

const suites = [
  inNode('server, treated roughly', 'server', 'jasmine-rough.json'),
  inNode('server', 'server'),
  inNode('engine in Node', 'engine'),
  ['engine in Chromium', 'npx', ['--no-install', 'karma', 'start', 'karma.conf.cjs'], ENGINE, karma],
  ['web units', 'npx', ['--no-install', 'ng', 'test'], join(ROOT, 'packages/web'), karma],
  inNode('command', 'cli'),
  ['lint', 'npx', ['--no-install', 'eslint', '.'], ROOT],
  ['format', 'npx', ['--no-install', 'prettier', '--check', '--log-level=warn', '.'], ROOT],
  ['other versions of Node', 'node', ['tools/other-nodes.mjs'], ROOT],
  ['the package', 'node', ['tools/installed.mjs'], ROOT],
  ['glossary', 'node', ['tools/check-glossary.mjs'], ROOT],
  ['types of the browser tests', 'npx', ['--no-install', 'tsc', '--noEmit', '-p', 'e2e'], ROOT],
  inNode('formats', 'formats'),
  inNode('host', 'host'),
  ['interface', 'npx', ['--no-install', 'playwright', 'test'], join(ROOT, 'e2e'), playwright],
];

await must('node', ['tools/bundle-engine-spec.mjs']);
const only = process.argv.slice(2);
const asked = suites.filter(([name]) => only.length === 0 || only.some((word) => name.includes(word)));
let passed = 0;
let failed = 0;
/** Specs that say that this machine lacks what they need, which is no pass. */
let leftOut = 0;
/** Of each suite that failed its name and what it said of that, told again at the very end: whoever is shown only the end sees why. */
const whatFailed = [];
const LINES_OF_A_FAILURE = 60;

/** What an output says of its failures: Jasmine's list of them, Karma's and Playwright's lines of each, else its last lines. */
function failuresIn(output) {
  const lines = plain(output).trimEnd().split(/\r?\n/);
  const listed = lines.lastIndexOf('Failures:');
  if (listed >= 0) return lines.slice(listed, listed + LINES_OF_A_FAILURE);
  const first = lines.findIndex((line) => / FAILED$|^ {2}1\) /.test(line));
  return first >= 0 ? lines.slice(first, first + LINES_OF_A_FAILURE) : lines.slice(-LINES_OF_A_FAILURE);
}

async function runSuite([name, command, args, cwd, count], quiet) {
  const before = performance.now();
  const { code, output } = await run(command, args, { cwd, env, quiet });
  const took = `${Math.round((performance.now() - before) / 1000)} s`;
  // A suite that ends badly, or says nothing that can be read, has failed, whatever it counted.
  const counts = count ? count(output) : [code === 0 ? 1 : 0, code === 0 ? 0 : 1];
  const bad = counts?.[1] ?? 0;
  passed += counts?.[0] ?? 0;
  leftOut += counts?.[2] ?? 0;
  failed += code !== 0 && bad === 0 ? 1 : bad;
  if (code !== 0 || bad > 0 || !counts) whatFailed.push([name, failuresIn(output)]);
  if (quiet) console.log(`\n== ${name}\n${output.trimEnd()}`);
  console.log(`== ${name}: ${took}`);
  if (!counts) console.log(`${name}: no count to be read`);
}

// Three at a time, the longest first: those of the server wait half of their time, for disks and processes that are killed. But the
// browser tests have the machine to themselves.
const [alone, beside] = [
  asked.filter(([name]) => name === 'interface'),
  asked.filter(([name]) => name !== 'interface'),
];
const lane = async () => {
  for (let suite = beside.shift(); suite; suite = beside.shift()) await runSuite(suite, true);
};
await Promise.all([lane(), lane(), lane()]);
for (const suite of alone) {
  console.log(`\n== ${suite[0]}`);
  await runSuite(suite, false);
}
if (leftOut > 0)
  console.log(`\n${leftOut} left out: this machine lacks what they need, which their reasons above name`);
for (const [name, lines] of whatFailed) console.log(`\n== failed in ${name}\n${lines.join('\n')}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
