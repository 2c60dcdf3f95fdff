/**
 * How others fare while somebody asks too much: a reader who types, beside one who asks the dearest questions, beside long rows that
 * are brought in, beside connections that send or read hardly anything; and how soon very many open sheets hear of an edit.
 */
import { connect, type Socket } from 'node:net';
import WebSocket from 'ws';
import type { StandingQuestion } from '@usual-needle/contract';
import { figures, line } from './figures.js';
import { listener, Reader, resident } from './load.js';
import { JSON_TYPE, pause } from './server.js';

/** The questions that take longest: counts that follow many threads, nothing to look up, what is near in every column, lists sorted by text. */
const DEAR: ((n: number) => string)[] = [
  (n) => `/[aeiou].{${20 + (n % 60)}}[aeiou]$/`,
  (n) => `/(?:.?){${900 + n}}.{100}$/`,
  (n) => `~tortoisehsell${n}`,
  (n) => `/^[^e${n % 10}]{${n % 90},}$/`,
  (n) => `/(a|e|i|o|u)(.{${n % 90},})(a|e|i|o|u)$/`,
  (n) => `e${'?'.repeat(40 + (n % 40))}w`,
  (n) => `*e*a*${n}*`,
];
const SHEETS = 1_500;
const SLOW = 200;

/** Takes one reader's times while `work` goes on. */
async function beside(address: string, table: number, what: string, work: (done: () => boolean) => Promise<void>) {
  const reader = new Reader(address, table, 0);
  await reader.open();
  const keys = setInterval(() => reader.key(), 250);
  let over = false;
  try {
    await work(() => over);
  } finally {
    over = true;
    clearInterval(keys);
    await pause(500);
    reader.end();
  }
  console.log(
    `${line(`typing beside ${what}`, figures(reader.times))}, unanswered ${reader.unanswered}, errors ${reader.errors}, resident ${(await resident()).toFixed(0)} MB`,
  );
}

/** Asks the dearest questions one after the other, each as soon as the one before is answered. */
async function dearQuestions(address: string, table: number, seconds: number): Promise<void> {
  const socket = new WebSocket(`${address.replace('http', 'ws')}/api/standing`);
  await new Promise((done, fail) => socket.once('open', done).once('error', fail));
  let told: (() => void) | undefined;
  let refused = '';
  socket.on('message', (data: Buffer) => {
    const text = data.toString();
    if (!/^\d+ 200 /.test(text)) refused = text.slice(0, 300);
    told?.();
  });
  const until = performance.now() + seconds * 1_000;
  let id = 0;
  while (performance.now() < until) {
    // Each another one, so that no answer is remembered.
    const text = DEAR[id % DEAR.length](id);
    const threaded = ['Description', 'Marks', 'Finder’s note', 'Item no.'];
    const question = {
      threaded,
      strands: [{ verb: 'find' as const, text }],
      sort: [{ column: 'Description', direction: 'down' as const, by: 'value' as const }],
    };
    const request = { question, columns: threaded, offset: 0, limit: 200, session: 'dear', turn: ++id };
    const answered = new Promise<void>((done) => (told = done));
    socket.send(JSON.stringify({ id, table, request } satisfies StandingQuestion));
    await answered;
  }
  socket.close();
  console.log(`  ${id} dear questions in ${seconds} s${refused && `, refused: ${refused}`}`);
}

async function longRows(address: string, seconds: number): Promise<void> {
  const cell = 'umbrella wood hat '.repeat(4_100);
  const row = `long,${cell},${cell}\n`;
  const rows = Math.min(3_900, Math.round(seconds * 20));
  const began = performance.now();
  async function* body(): AsyncGenerator<Uint8Array> {
    yield Buffer.from('A,B,C\n');
    for (let i = 0; i < rows; i++) yield Buffer.from(row.replace('long', `long ${i}`));
  }
  const options = { method: 'POST', headers: { 'content-type': 'text/csv' }, body: body(), duplex: 'half' };
  const reply = await fetch(`${address}/api/tables?name=Long`, options as unknown as RequestInit);
  console.log(
    `  ${rows} rows of ${Math.round(row.length / 1000)} kB: ${reply.status} after ${((performance.now() - began) / 1000).toFixed(0)} s`,
  );
  const { id } = (await reply.json()) as { id?: number };
  if (id !== undefined) await fetch(`${address}/api/tables/${id}`, { method: 'DELETE' });
}

/** Connections that send a byte a second of a request that never ends, and such that read nothing of the events they asked for. */
async function slowOnes(address: string, table: number, seconds: number): Promise<void> {
  const { hostname, port } = new URL(address);
  const opened: Socket[] = [];
  const open = async (): Promise<Socket> => {
    const socket = connect(Number(port), hostname);
    opened.push(socket);
    socket.on('error', () => undefined);
    await new Promise((done) => socket.once('connect', done));
    return socket;
  };
  const drops: Socket[] = [];
  for (let i = 0; i < SLOW; i++) {
    const socket = await open();
    socket.write('POST /api/tables HTTP/1.1\r\nHost: x\r\nX-Slow: ');
    drops.push(socket);
    const deaf = await open();
    deaf.pause();
    deaf.write(`GET /api/tables/${table}/events HTTP/1.1\r\nHost: x\r\n\r\n`);
  }
  for (let s = 0; s < seconds; s++) {
    for (const socket of drops) if (socket.writable) socket.write('a');
    await edited(address, table, `slow ${s}`);
    await pause(1_000);
  }
  const left = drops.filter((socket) => !socket.destroyed && socket.readyState === 'open').length;
  console.log(`  ${SLOW} requests of a byte a second, ${left} of them still open; ${SLOW} sheets that read no events`);
  for (const socket of opened) socket.destroy();
}

let keys = 0;
async function edited(address: string, table: number, text: string): Promise<number | undefined> {
  const body = { key: `rough-${Date.now()}-${++keys}`, kind: 'added', columns: ['Description'], added: [[text]] };
  const reply = await fetch(`${address}/api/tables/${table}/changes`, {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify(body),
  });
  return ((await reply.json()) as { change?: number }).change;
}

async function openSheets(address: string, table: number): Promise<void> {
  const abort = new AbortController();
  const heard = new Map<number, number[]>();
  for (let i = 0; i < SHEETS; i++)
    void listener(address, table, abort.signal, (number) =>
      heard.set(number, [...(heard.get(number) ?? []), performance.now()]),
    );
  await pause(5_000);
  const times: number[] = [];
  for (let i = 0; i < 5; i++) {
    const asked = performance.now();
    const change = (await edited(address, table, `for all ${i}`))!;
    await pause(1_500);
    times.push(...(heard.get(change) ?? []).map((at) => at - asked));
  }
  abort.abort();
  console.log(`${line(`an edit, told to ${SHEETS} open sheets`, figures(times))} (budget 1 s, all of 5x${SHEETS})`);
}

export async function benchRough(address: string, table: number, seconds: number): Promise<void> {
  console.log(`\n== rough: one reader types four keys a second, ${seconds} s each`);
  await beside(address, table, 'nobody', () => pause(seconds * 1_000));
  await beside(address, table, 'dear questions (budget p95 30)', () => dearQuestions(address, table, seconds));
  await beside(address, table, 'long rows (budget p95 100)', () => longRows(address, seconds));
  await beside(address, table, 'slow connections', () => slowOnes(address, table, seconds));
  await openSheets(address, table);
}
