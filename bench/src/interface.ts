/**
 * Key to painted rows, in the real interface: from the input event of a key to the frame after the one in which the grid
 * shows the rows that answer it. Run by `npm run bench`, against a server on BENCH_ADDRESS.
 */
import { type Browser, chromium, type Page } from '@playwright/test';
import type { StoredBox } from '@usual-needle/contract';
import { traced } from './breakdown.js';
import { figures, line } from './figures.js';

const TRACES = ['umbrella wood', 'keys lanyard', 'lp-40', 'brückl', 'e', 'serial', 'wallet red', 'owner rang', 'zzzz'];

interface Watched extends Window {
  painted?: number[];
}

async function withBrowser(work: (browser: Browser) => Promise<void>): Promise<void> {
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  try {
    await work(browser);
  } finally {
    await browser.close();
  }
}

/** Notes the time from each key to the paint of its answer, which an element says it shows by `data-answers`. */
async function watch(page: Page, selector: string): Promise<void> {
  await page.evaluate((shown) => {
    const times: number[] = [];
    (window as Watched).painted = times;
    const grid = document.querySelector(shown)!;
    let waiting: { text: string; since: number } | undefined;
    document.addEventListener(
      'input',
      (event) => (waiting = { text: (event.target as HTMLInputElement).value, since: event.timeStamp }),
      true,
    );
    new MutationObserver(() => {
      if (!waiting || grid.getAttribute('data-answers') !== waiting.text) return;
      const { since } = waiting;
      waiting = undefined;
      requestAnimationFrame(() => {
        const channel = new MessageChannel();
        channel.port1.onmessage = () => times.push(performance.now() - since);
        channel.port2.postMessage(null);
      });
    }).observe(grid, { attributes: true, attributeFilter: ['data-answers'] });
  }, selector);
}

/** A page that is turned to is drawn whole first, and nobody types so soon: milliseconds. */
const TURNED_TO_MS = 400;

/** Types each text at a person's quick pace, and takes it back. */
async function type(page: Page, text: string, label = 'Find'): Promise<void> {
  await page.bringToFront();
  await page.getByRole('textbox', { name: label, exact: true }).focus();
  await page.waitForTimeout(TURNED_TO_MS);
  for (const key of text) {
    await page.keyboard.type(key);
    await page.waitForTimeout(110);
  }
  for (let i = 0; i < text.length; i++) {
    await page.keyboard.press('Backspace');
    await page.waitForTimeout(60);
  }
  await page.waitForTimeout(150);
}

/**
 * The yardstick: a page with nothing on it but a field and the same number of cells, which asks the same server the same
 * over the same connection, and writes the cells as plain text. What it needs, this machine and this browser need.
 */
async function barePage(page: Page, address: string): Promise<void> {
  const { origin, pathname } = new URL(address);
  await page.goto(`${origin}/api/tables`);
  const box = (await (await page.request.get(`${origin}/api/boxes/${pathname.split('/').pop()}`)).json()) as StoredBox;
  await page.setContent('<label>Find <input id="find"></label><div id="rows" style="font:14px sans-serif"></div>');
  await page.evaluate(
    async ({ tableId, threaded, columns }) => {
      const rows = document.getElementById('rows')!;
      const cells = Array.from({ length: 17 }, (_, y) =>
        columns.map((_column, x) => {
          const cell = rows.appendChild(document.createElement('div'));
          cell.style.cssText = `position:absolute;overflow:hidden;white-space:nowrap;width:150px;height:30px;left:${x * 160}px;top:${60 + y * 33}px`;
          return cell;
        }),
      );
      const socket = new WebSocket(`ws://${location.host}/api/standing`);
      await new Promise((opened) => (socket.onopen = opened));
      let id = 0;
      let asked = '';
      document.getElementById('find')!.addEventListener('input', (event) => {
        asked = (event.target as HTMLInputElement).value;
        const question = { threaded, strands: [{ verb: 'find', text: asked }] };
        socket.send(JSON.stringify({ id: ++id, table: tableId, request: { question, columns, offset: 0, limit: 40 } }));
      });
      socket.onmessage = ({ data }: MessageEvent<string>) => {
        if (!data.startsWith(`${id} `)) return;
        const answer = JSON.parse(data.slice(data.indexOf('{'))) as { rows: { cells: string[] }[] };
        cells.forEach((row, y) => row.forEach((cell, x) => (cell.textContent = answer.rows[y]?.cells[x] ?? '')));
        rows.setAttribute('data-answers', asked);
      };
    },
    {
      tableId: box.tableId,
      threaded: box.box.threaded ?? [],
      columns: (box.box.columns ?? []).map(({ name }) => name),
    },
  );
}

/**
 * Scrolls a table from end to end in leaps, and by a steady drag, and notes how long rows in view stay blank.
 */
export async function benchScrolling(address: string, name: string): Promise<void> {
  await withBrowser(async (browser) => {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(address);
    await page.waitForSelector('un-record-grid .row .cell');
    const { leaps, drag } = await page.evaluate(async () => {
      const grid = document.querySelector('.scroller')!;
      const frame = (): Promise<number> => new Promise((done) => requestAnimationFrame(done));
      const blank = (): boolean =>
        Array.from(grid.querySelectorAll('.pin .place')).some((place) => place.textContent === '');
      const most = grid.scrollHeight - grid.clientHeight;
      const waits: number[] = [];
      for (let i = 1; i <= 100; i++) {
        grid.scrollTop = (most * ((i * 37) % 101)) / 100;
        const since = performance.now();
        await frame();
        while (blank()) await frame();
        waits.push(performance.now() - since);
      }
      // End to end in five seconds; a blank stretch lasts from the first blank frame to the next one that is not.
      const stretches: number[] = [0];
      let blankSince: number | undefined;
      const start = performance.now();
      for (let now = start; now - start < 5_000; now = await frame()) {
        grid.scrollTop = (most * (now - start)) / 5_000;
        if (blank()) blankSince ??= now;
        else if (blankSince !== undefined) {
          stretches.push(now - blankSince);
          blankSince = undefined;
        }
      }
      return { leaps: waits, drag: stretches };
    });
    console.log(line(`a leap to painted rows, ${name}`, figures(leaps)));
    console.log(
      `longest time with a blank row, end to end in 5 s   ${Math.max(...drag).toFixed(0)} ms (budget 100 ms)`,
    );
  });
}

/** Prints the figures of a box at an address, and the yardstick's, taken in turns. */
export async function benchInterface(address: string, name: string, yardstick: boolean): Promise<void> {
  await withBrowser(async (browser) => {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(address);
    await page.waitForSelector('un-record-grid .row .cell');
    const bare = yardstick ? await browser.newPage({ viewport: { width: 1280, height: 800 } }) : undefined;
    if (bare) await barePage(bare, address);
    for (const one of bare ? [page, bare] : [page]) await type(one, 'warm');
    await watch(page, '.scroller');
    if (bare) await watch(bare, '#rows');
    for (const text of TRACES) {
      await type(page, text);
      if (bare) await type(bare, text);
    }
    const painted = (of: Page): Promise<number[]> => of.evaluate(() => (window as Watched).painted!);
    console.log(line(`key to painted rows, ${name}`, figures(await painted(page))));
    if (bare) console.log(line(`  a bare page doing the same`, figures(await painted(bare))));
    const keys = 2 * TRACES.join('').length;
    const sums: number[] = [];
    for (const [of, what] of [[page, name] as const, ...(bare ? [[bare, 'the bare page'] as const] : [])]) {
      const kinds = await traced(of, async () => {
        for (const text of TRACES) await type(of, text);
      });
      const each = [...kinds].map(([kind, time]) => `${kind} ${(time / keys).toFixed(2)}`);
      sums.push([...kinds.values()].reduce((sum, time) => sum + time, 0) / keys);
      console.log(`  of a key's ${sums.at(-1)!.toFixed(1)} ms on the main thread, ${what}: ${each.join(', ')}`);
    }
    if (bare) console.log(`  that is ${(sums[0] / sums[1]).toFixed(2)} times the bare page's work (to reach: 1.30)`);
  });
}

/** Texts that nobody has typed before. */
export const AFRESH = ['glove black', 'scarf wool', 'lp-73', 'søndre', 'phone', 'bag green', 'with tag', 'qqqq'];

/** The yardstick of the shelf: a field and a line of text a table, which asks what the shelf asked last, with another text. */
async function bareShelf(page: Page, address: string, asked: string): Promise<void> {
  await page.goto(`${address}/api/tables`);
  await page.setContent('<label>Find everywhere <input id="find"></label><div id="rows"></div>');
  await page.evaluate(async (message) => {
    const questions = JSON.parse(message) as { request: { turn: number; question: { strands: { text: string }[] } } }[];
    const rows = document.getElementById('rows')!;
    const lines = questions.map(() => rows.appendChild(document.createElement('div')));
    const socket = new WebSocket(`ws://${location.host}/api/standing`);
    await new Promise((opened) => (socket.onopen = opened));
    let turn = 0;
    let left = 0;
    let typed = '';
    document.getElementById('find')!.addEventListener('input', (event) => {
      typed = (event.target as HTMLInputElement).value;
      turn++;
      left = questions.length;
      const put = questions.map((one, place) => {
        const { strands } = one.request.question;
        const question = { ...one.request.question, strands: [{ ...strands[0], text: typed }, ...strands.slice(1)] };
        return {
          ...one,
          id: turn * questions.length + place,
          request: { ...one.request, session: `${place}`, turn, question },
        };
      });
      if (typed !== '') socket.send(JSON.stringify(put));
    });
    socket.onmessage = ({ data }: MessageEvent<string>) => {
      for (const reply of data.split('\n')) {
        const place = Number(reply.slice(0, reply.indexOf(' '))) - turn * questions.length;
        if (place < 0) continue;
        const { matched, rows: best } = JSON.parse(reply.slice(reply.indexOf('{'))) as {
          matched: number;
          rows: object[];
        };
        lines[place].textContent = `${matched} ${JSON.stringify(best)}`.slice(0, 300);
        left--;
      }
      if (left === 0) rows.setAttribute('data-answers', typed);
    };
  }, asked);
}

/** Texts of the kind of the others, and not the same. */
const LIKEWISE = ['glasses case', 'torn ticket', 'lp-52', 'straße', 'a', 'number', 'purse blue', 'lost found', 'yyyy'];

/** Key to painted counts of every table, on the shelf, and the yardstick's, taken in turns. */
export async function benchEverywhere(address: string, name: string, texts: readonly string[] = TRACES): Promise<void> {
  await withBrowser(async (browser) => {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    let asked = '';
    page.on('websocket', (socket) =>
      socket.on('framesent', ({ payload }) => {
        if (String(payload).startsWith('[')) asked = String(payload);
      }),
    );
    await page.goto(address);
    await page.waitForSelector('section.table');
    await type(page, 'warm', 'Find everywhere');
    const bare = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await bareShelf(bare, address, asked);
    await type(bare, 'warm', 'Find everywhere');
    await watch(page, '.find');
    await watch(bare, '#rows');
    // What was asked before is known, so each has texts of its own.
    for (const [i, text] of texts.entries()) {
      await type(page, text, 'Find everywhere');
      await type(bare, LIKEWISE[i % LIKEWISE.length], 'Find everywhere');
    }
    const times = (of: Page): Promise<number[]> => of.evaluate(() => (window as Watched).painted!);
    console.log(`${line(`key to painted counts, ${name}`, figures(await times(page)))}  (to hold: p95 50 ms)`);
    console.log(line('  a bare page doing the same', figures(await times(bare))));
  });
}
