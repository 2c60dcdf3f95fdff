/**
 * How things grow with the rows: `npm run bench -- scale` measures what it is given (10,000 to 10,000,000 rows, if not said; the last takes long) and
 * writes `docs/scale.md` and its plot from what it found. Each size is measured in a process of its own, so that none pays for
 * the memory of another.
 */
import { once } from 'node:events';
import { request, type IncomingMessage } from 'node:http';
import { Readable } from 'node:stream';
import { json } from 'node:stream/consumers';
import { pipeline } from 'node:stream/promises';
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { cpus, tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium } from '@playwright/test';
import { csvLines, foundItems } from '@usual-needle/demo';
import { blankQuestion, Search, Table, windowRows, type Row } from '@usual-needle/engine';
import { COLUMNS, FROM } from './columns.js';
import { figures } from './figures.js';
import { started, stopped } from './server.js';
import { answered } from './start.js';

const DOCS = fileURLToPath(new URL('../../docs/', import.meta.url));
/** The server takes so many rows a table; beyond that it is the engine alone. */
const SERVED = 10_000_000;
/** UTF-16 units of a file that are sent at once. */
const PIECE = 1 << 18;
/** Seconds that a pack is waited for. */
const PACK_SECONDS = 600;
const TYPED = [
  'umbrella wood',
  'gnome',
  'lp-40518',
  'key lan red',
  'status:held',
  'um*la',
  '/umb.*wood/',
  '~umbrela',
  'brückl',
];
/** A search looks up after so long, in milliseconds, as a host lets it. */
const STRETCH_MS = 8;

/** The figures of one size; times in milliseconds, memory in MB; null where it was not measured. */
export interface Size {
  readonly rows: number;
  readonly build: number;
  readonly memory: number;
  readonly firstRows: number;
  readonly whole: number;
  readonly bringIn: number | null;
  readonly start: number | null;
  readonly pack: number | null;
}

function* records(count: number): Generator<Row> {
  let id = 0;
  for (const cells of foundItems(count).rows) yield { id: ++id, cells: FROM.map((i) => cells[i]) };
}

function engine(rows: number): Pick<Size, 'build' | 'memory' | 'firstRows' | 'whole'> {
  // What making them takes is no building.
  let making = performance.now();
  let last = 0;
  for (const { id } of records(rows)) last = id;
  making = performance.now() - making;
  if (last !== rows) throw new Error('rows are missing');
  globalThis.gc?.();
  const before = process.memoryUsage().rss;
  const began = performance.now();
  const table = new Table(COLUMNS, records(rows));
  const steps = table.buildIndexes();
  while (!steps.next().done);
  const build = performance.now() - began - making;
  globalThis.gc?.();
  const memory = (process.memoryUsage().rss - before) / 1e6;
  const all = COLUMNS.map((_, i) => i);
  const [firstRows, whole]: number[][] = [[], []];
  for (let round = 0; round < 2; round++)
    for (const text of TYPED)
      for (let length = 1; length <= text.length; length++) {
        const question = blankQuestion(all);
        const asked = performance.now();
        const search = new Search(table, {
          ...question,
          strands: [{ verb: 'find', text: text.slice(0, length), reading: 'words' }],
        });
        let first = 0;
        while (search.step(STRETCH_MS)) if (first === 0 && search.shown > 0) first = seen(search, all, asked);
        const end = seen(search, all, asked);
        if (round === 0) continue;
        firstRows.push(first || end);
        whole.push(end);
      }
  return { build, memory, firstRows: figures(firstRows).p95, whole: figures(whole).p95 };
}

function seen(search: Search, columns: readonly number[], since: number): number {
  windowRows(search, 0, 60, columns);
  return performance.now() - since;
}

/** Lines put together to pieces of a file that are worth sending. */
function* pieces(lines: Iterable<string>): Generator<string> {
  let piece = '';
  for (const line of lines) {
    piece += line;
    if (piece.length < PIECE) continue;
    yield piece;
    piece = '';
  }
  yield piece;
}

/** Sends lines of a file as they come: ten million rows are no one text, and take longer than `fetch` waits. */
async function sent(address: string, lines: Iterable<string>): Promise<{ id: number }> {
  const asked = request(address, { method: 'POST', headers: { 'content-type': 'text/csv' } });
  const answered = once(asked, 'response') as Promise<[IncomingMessage]>;
  await pipeline(Readable.from(pieces(lines)), asked);
  const [response] = await answered;
  return (await json(response)) as { id: number };
}

async function served(rows: number): Promise<Pick<Size, 'bringIn' | 'start' | 'pack'>> {
  if (rows > SERVED) return { bringIn: null, start: null, pack: null };
  const data = await mkdtemp(join(tmpdir(), 'usual-needle-scale-'));
  try {
    const first = await started(data, ['--no-demo']);
    const { columns, rows: cells } = foundItems(rows);
    const began = performance.now();
    const { id } = await sent(`${first.address}/api/tables?name=Many`, csvLines(columns, cells));
    const bringIn = performance.now() - began;
    const path = join(data, 'packs', `table-${id}.pack`);
    for (let i = 0; i < 10 * PACK_SECONDS && !existsSync(path); i++) await new Promise((done) => setTimeout(done, 100));
    const pack = existsSync(path) ? statSync(path).size / 1e6 : null;
    await stopped(first.server);
    const starts: number[] = [];
    for (let i = 0; i < 3; i++) {
      const again = performance.now();
      const { server, address } = await started(data, ['--no-demo']);
      starts.push(await answered(address, id, rows, again));
      await stopped(server);
    }
    return { bringIn, start: figures(starts).p50, pack };
  } finally {
    await rm(data, { recursive: true, force: true });
  }
}

/** Measures one size, in this process. */
export async function benchSize(rows: number): Promise<void> {
  const byServer = await served(rows);
  console.log(JSON.stringify({ rows, ...engine(rows), ...byServer } satisfies Size));
}

const seconds = (ms: number | null): string =>
  ms === null ? 'not served' : `${(ms / 1000).toFixed(ms < 10_000 ? 2 : 0)} s`;
const milliseconds = (ms: number): string => `${ms.toFixed(ms < 10 ? 1 : 0)} ms`;

function table(sizes: readonly Size[]): string {
  const row = (name: string, of: (size: Size) => string): string => `| ${name} | ${sizes.map(of).join(' | ')} |`;
  return [
    `| rows | ${sizes.map(({ rows }) => rows.toLocaleString('en')).join(' | ')} |`,
    `| --- | ${sizes.map(() => '---').join(' | ')} |`,
    row('engine: building store and indexes', ({ build }) => seconds(build)),
    row('engine: memory', ({ memory }) => `${memory.toFixed(0)} MB`),
    row('a keystroke: first rows, p95', ({ firstRows }) => milliseconds(firstRows)),
    row('a keystroke: the whole answer, p95', ({ whole }) => milliseconds(whole)),
    row('rows searched a second, by that', ({ rows, whole }) => `${(rows / whole / 1000).toFixed(0)} million`),
    row('bringing a CSV in, until it answers', ({ bringIn }) => seconds(bringIn)),
    row('start, until the first answer', ({ start }) => seconds(start)),
    row('its pack on the disk', ({ pack }) => (pack === null ? 'none' : `${pack.toFixed(0)} MB`)),
  ].join('\n');
}

/** Rows and times on scales of tens, so that what grows with the rows is a straight line. */
async function plot(sizes: readonly Size[], path: string): Promise<void> {
  const script = join(dirname(createRequire(import.meta.url).resolve('chart.js')), 'chart.umd.js');
  const lines: [name: string, of: keyof Size, colour: string, dash: number[]][] = [
    ['building (engine)', 'build', '#8c2f39', []],
    ['bringing in', 'bringIn', '#8c2f39', [6, 4]],
    ['start to first answer', 'start', '#2f5d62', []],
    ['whole answer, p95', 'whole', '#6b5b2a', []],
    ['first rows, p95', 'firstRows', '#6b5b2a', [2, 3]],
  ];
  const config = {
    type: 'line',
    data: {
      datasets: lines.map(([label, of, borderColor, borderDash]) => ({
        label,
        borderColor,
        backgroundColor: borderColor,
        borderDash,
        data: sizes.flatMap((size) => (size[of] === null ? [] : [{ x: size.rows, y: size[of] }])),
      })),
    },
    options: {
      animation: false,
      responsive: false,
      scales: {
        x: { type: 'logarithmic', title: { display: true, text: 'rows' } },
        y: { type: 'logarithmic', title: { display: true, text: 'milliseconds' } },
      },
    },
  };
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 860, height: 520 } });
    await page.setContent(
      '<body style="margin:10px;background:#fff"><canvas width="840" height="500"></canvas></body>',
    );
    await page.addScriptTag({ content: readFileSync(script, 'utf8') });
    await page.evaluate(`new Chart(document.querySelector('canvas'), ${JSON.stringify(config)})`);
    await page.screenshot({ path });
  } finally {
    await browser.close();
  }
}

/** Measures all sizes and writes the document. */
export async function benchScale(asked: readonly number[]): Promise<void> {
  const program = fileURLToPath(new URL('./main.js', import.meta.url));
  const sizes = asked.map((rows) => {
    const said = execFileSync(
      process.execPath,
      ['--expose-gc', '--max-old-space-size=12000', program, 'size', String(rows)],
      {
        encoding: 'utf8',
        stdio: ['ignore', 'pipe', 'inherit'],
        maxBuffer: 1e8,
      },
    );
    const size = JSON.parse(said.trim().split('\n').at(-1)!) as Size;
    console.log(table([size]));
    return size;
  });
  await plot(sizes, join(DOCS, 'scale.png'));
  const day = new Date().toISOString().slice(0, 10);
  writeFileSync(
    join(DOCS, 'scale.md'),
    readFileSync(new URL('../scale.template.md', import.meta.url), 'utf8')
      .replace(
        '{measured}',
        `Measured on ${day}, ${cpus().length} cores (${cpus()[0].model.trim()}), Node ${process.version}.`,
      )
      .replace('{table}', table(sizes)),
  );
}
