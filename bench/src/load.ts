/**
 * Many readers at once, each typing four keys a second over its own standing connection, while a row is changed every second: how
 * long a keystroke's answer takes, how many get none, what memory does, and how soon an open sheet hears of a change.
 */
import { readFile } from 'node:fs/promises';
import WebSocket from 'ws';
import type { StandingQuestion } from '@usual-needle/contract';
import { figures, line } from './figures.js';
import { processorTime } from './processor-time.js';
import { serverProcess } from './server.js';

const KEYS_A_SECOND = 4;
/** Keys in which a reader types a text, takes it back, and rests. */
const KEYS_A_TEXT = 24;
/** p95 of readers whose texts are their own, in milliseconds, on a machine of reference speed. */
const OWN_BUDGETS = [
  [50, 30],
  [100, 45],
  [200, 60],
  [500, 400],
] as const;
/** Scopes of readers that the table is shared within, where it is shared. */
const SCOPES = 20;
const ASKED = ['Item no.', 'Description', 'Colour', 'Marks', 'Found at', 'Found on', 'Status'];
const THREADED = [
  'Item no.',
  'Description',
  'Category',
  'Colour',
  'Marks',
  'Found at',
  'Line',
  'Shelf',
  'Status',
  'Finder’s note',
];
const TYPED = [
  'umbrella wood',
  'black hat',
  'lp-4051',
  'gnome',
  'phone crack',
  'status:held ring',
  'owner',
  'keys red',
];

/** Gives a text that nobody has typed yet. */
export type Texts = () => string;

/** Words that everybody types; but every third text is an item number of the reader's own. */
function everybodys(reader: number, round: number): string {
  const isOwn = (reader + round) % 3 === 0;
  return isOwn ? `lp-${36_000 + ((reader * 131 + round * 17) % 60_000)}` : TYPED[(reader + round) % TYPED.length];
}

/** The demo's columns with many different cells: number, description, marks and note. */
const VARIED = [0, 1, 4, 11];
/** Units of a text that is cut out of a cell. */
const [LEAST_CUT, MOST_CUT] = [5, 14];

/**
 * Texts that are each reader's own: cut out of random cells, from anywhere in them, so that hardly two readers ask the same.
 * @param seed another one gives texts that nobody here has seen
 */
export function cutOut(rows: readonly (readonly string[])[], seed: number): Texts {
  let state = seed >>> 0;
  /** A linear congruential generator (Numerical Recipes): below `most`. */
  const random = (most: number): number => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 2 ** 32) * most);
  };
  return () => {
    for (;;) {
      const row = rows[random(rows.length)];
      const cell = row[VARIED[random(VARIED.length)]];
      const length = LEAST_CUT + random(MOST_CUT - LEAST_CUT + 1);
      const from = random(Math.max(1, cell.length - length + 1));
      const text = cell.slice(from, from + length).trim();
      if (text.length >= LEAST_CUT) return text;
    }
  };
}

/** A reader that types, letter by letter: words that everybody types, or texts of its own. */
export class Reader {
  readonly times: number[] = [];
  unanswered = 0;
  asked = 0;
  errors = 0;
  private readonly socket: WebSocket;
  private readonly sent = new Map<number, number>();
  private id = 0;
  private at = 0;
  private word = '';
  private text = '';

  constructor(
    address: string,
    private readonly table: number,
    private readonly number: number,
    /** The slug of the box that it asks by; without one, it asks by the table, as a builder. */
    private readonly box?: string,
    private readonly texts?: Texts,
  ) {
    this.socket = new WebSocket(`${address.replace('http', 'ws')}/api/standing`);
    this.socket.on('message', (data: Buffer) => {
      const [, id, status] = /^(\d+) (\d+) /.exec(data.subarray(0, 40).toString())!;
      const sent = this.sent.get(Number(id));
      if (sent === undefined) return;
      // A keystroke that a later one took the place of needs no answer of its own.
      for (const one of this.sent.keys()) if (one <= Number(id)) this.sent.delete(one);
      if (status !== '200') this.errors++;
      else if (!data.subarray(0, 200).includes('"overtaken":true')) this.times.push(performance.now() - sent);
    });
  }

  async open(): Promise<void> {
    await new Promise((done, fail) => this.socket.once('open', done).once('error', fail));
  }

  /** The next text of the reader's own: letter by letter, and then another one in its place, so that none is asked twice. */
  private grown(texts: Texts): string {
    if (this.text !== this.word) return this.word.slice(0, this.text.length + 1);
    this.word = texts();
    return this.word.slice(0, 1);
  }

  /** Types a text, takes it back, rests, types the next. */
  private backAndForth(): string {
    const step = this.at % KEYS_A_TEXT;
    if (step === 0) this.word = everybodys(this.number, this.at / KEYS_A_TEXT);
    this.at++;
    const { word } = this;
    return step < word.length ? word.slice(0, step + 1) : word.slice(0, Math.max(0, 2 * word.length - step - 1));
  }

  key(): void {
    this.text = this.texts ? this.grown(this.texts) : this.backAndForth();
    const message: StandingQuestion = {
      id: ++this.id,
      ...(this.box === undefined ? { table: this.table } : { box: this.box }),
      request: {
        question: { threaded: THREADED, strands: [{ verb: 'find', text: this.text }] },
        // A reader's box has other columns than a builder's.
        ...(this.box === undefined && { columns: ASKED }),
        offset: 0,
        limit: 60,
        session: 's',
        turn: this.id,
        patience: 40,
      },
    };
    this.asked++;
    this.sent.set(this.id, performance.now());
    this.socket.send(JSON.stringify(message));
  }

  end(): void {
    this.unanswered = this.sent.size;
    this.socket.close();
  }
}

/** Reads events until aborted; times are from a commit's being asked for to its event. */
export async function listener(
  address: string,
  table: number,
  signal: AbortSignal,
  told: (number: number) => void,
): Promise<void> {
  try {
    const response = await fetch(`${address}/api/tables/${table}/events`, { signal });
    const decoder = new TextDecoder();
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>)
      for (const [, id] of decoder.decode(chunk).matchAll(/^id: (\d+)$/gm)) told(Number(id));
  } catch {
    // Ended with the bench.
  }
}

export async function resident(): Promise<number> {
  const status = await readFile(`/proc/${serverProcess()}/status`, 'utf8');
  return Number(/VmRSS:\s+(\d+)/.exec(status)![1]) / 1024;
}

/** Searches that the server has answered with another reader's answer, and those that it worked out. */
async function searches(address: string): Promise<{ shared: number; worked: number }> {
  const health = (await (await fetch(`${address}/api/health`)).json()) as {
    searches: { shared: number; worked: number };
  };
  return health.searches;
}

/** Shares a table by boxes of which no two have the same scope: other columns, and every other one with a picker that is locked. */
async function sharedBoxes(address: string, table: number): Promise<string[]> {
  const send = async (method: string, path: string, body: object): Promise<Record<string, unknown>> => {
    const headers = { 'content-type': 'application/json' };
    const reply = await fetch(address + path, { method, headers, body: JSON.stringify(body) });
    return (await reply.json()) as Record<string, unknown>;
  };
  const slugs: string[] = [];
  for (let i = 0; i < SCOPES; i++) {
    const columns = THREADED.filter((_, at) => at === i % THREADED.length || (at * 7 + i) % 3 > 0);
    const pickers = i % 2 ? [{ column: 'Status', values: ['Held'] }] : [];
    const box = { format: 'usual-needle box', version: 1, name: `Scope ${i}`, threaded: columns, pickers };
    const { id } = await send('POST', `/api/tables/${table}/boxes`, { box });
    const share = {
      ...{ everyone: false, people: [], may: ['sort', 'flip'], columns, searched: [], editable: [] },
      locked: i % 2 ? ['Status'] : [],
    };
    await send('PUT', `/api/boxes/${String(id)}/share`, share);
    const { path } = await send('POST', `/api/boxes/${String(id)}/share/link`, {});
    slugs.push(String(path).split('/').at(-1)!);
  }
  return slugs;
}

interface Pass {
  readonly changing?: boolean;
  readonly boxes?: readonly string[];
  /** Each reader's own texts, if not everybody's. */
  readonly own?: Texts;
}

async function pass(
  address: string,
  table: number,
  count: number,
  seconds: number,
  { changing = false, boxes, own }: Pass = {},
): Promise<void> {
  const readers = Array.from(
    { length: count },
    (_, i) => new Reader(address, table, i, boxes?.[i % boxes.length], own),
  );
  await Promise.all(readers.map((reader) => reader.open()));
  const before = await searches(address);
  const abort = new AbortController();
  const commits = new Map<number, number>();
  const heard: number[] = [];
  const late: number[] = [];
  if (changing)
    for (let i = 0; i < count; i++)
      void listener(address, table, abort.signal, (number) => {
        const at = commits.get(number);
        if (at === undefined) late.push(number);
        else heard.push(performance.now() - at);
      });
  const timers: NodeJS.Timeout[] = [];
  for (const [i, reader] of readers.entries())
    timers.push(
      setTimeout(
        () => timers.push(setInterval(() => reader.key(), 1000 / KEYS_A_SECOND)),
        (i * 1000) / KEYS_A_SECOND / count,
      ),
    );
  let edits = 0;
  let refused = 0;
  if (changing)
    timers.push(
      setInterval(() => {
        const asked = performance.now();
        const body = {
          key: `load-${Date.now()}-${++edits}`,
          kind: 'added',
          columns: ['Description'],
          added: [[`umbrella ${edits}`]],
        };
        fetch(`${address}/api/tables/${table}/changes`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(body),
        })
          .then(async (reply) => {
            const { change } = (await reply.json()) as { change?: number };
            if (change === undefined) return refused++;
            commits.set(change, asked);
            // The event may have come before the answer.
            for (const number of late.splice(0)) if (number === change) heard.push(performance.now() - asked);
          })
          .catch(() => refused++);
      }, 1_000),
    );
  const worked = await processorTime(serverProcess());
  const generated = process.cpuUsage();
  const memory: number[] = [];
  const every = Math.max(1, Math.floor(seconds / 6));
  for (let s = 0; s < seconds; s++) {
    await new Promise((wait) => setTimeout(wait, 1_000));
    if (s % every === every - 1) memory.push(await resident());
  }
  const took = await processorTime(serverProcess());
  const { user, system } = process.cpuUsage(generated);
  for (const timer of timers) clearInterval(timer);
  await new Promise((wait) => setTimeout(wait, 1_500));
  for (const reader of readers) reader.end();
  abort.abort();
  const times = readers.flatMap((reader) => reader.times);
  const sum = (of: (reader: Reader) => number): number => readers.reduce((all, reader) => all + of(reader), 0);
  const searched = await searches(address);
  const scopes = boxes ? `, of ${boxes.length} scopes` : '';
  const texts = own ? ', texts of their own' : '';
  console.log(line(`${count} readers${texts}${scopes}${changing ? ', a change a second' : ''}`, figures(times)));
  const [hits, misses] = [searched.shared - before.shared, searched.worked - before.worked];
  const asked = sum((reader) => reader.asked);
  const each = (seconds: number): string => ((seconds * 1_000) / (times.length || 1)).toFixed(2);
  const parts = (['search', 'helpers', 'main', 'files'] as const).map(
    (kind) => [kind, took[kind] - worked[kind]] as const,
  );
  const inAll = parts.reduce((all, [, took]) => all + took, 0);
  const named = parts.map(([kind, took]) => `${kind} ${each(took)}`).join(', ');
  console.log(
    `  ${asked} asked, ${times.length} answered, ${((1 - times.length / asked) * 100).toFixed(0)} % overtaken; processor ms an answer ${each(inAll)} (${named}; the generator ${each((user + system) / 1e6)})`,
  );
  console.log(
    `  another's answer served ${hits}, worked out ${misses}; unanswered ${sum((r) => r.unanswered)}, errors ${sum((r) => r.errors)}, resident MB ${memory.map((mb) => mb.toFixed(0)).join(' ')}`,
  );
  if (changing) console.log(line(`  from commit to event, ${count} open sheets, ${refused} refused`, figures(heard)));
}

/** Times of a reader alone, the next question once the last is answered: none asked before, and then the same again. */
async function roundTrips(address: string, table: number): Promise<void> {
  const socket = new WebSocket(`${address.replace('http', 'ws')}/api/standing`);
  await new Promise((done, fail) => socket.once('open', done).once('error', fail));
  let told: (() => void) | undefined;
  socket.on('message', () => told?.());
  let id = 0;
  const ask = async (text: string): Promise<number> => {
    const question = { threaded: THREADED, strands: [{ verb: 'find' as const, text }] };
    const request = { question, columns: ASKED, offset: 0, limit: 60, session: 's', turn: ++id };
    const answered = new Promise<void>((done) => (told = done));
    const began = performance.now();
    socket.send(JSON.stringify({ id, table, request } satisfies StandingQuestion));
    await answered;
    return performance.now() - began;
  };
  // Whole item numbers and ends of them: each is asked once.
  const texts = Array.from({ length: 600 }, (_, i) => (i % 2 ? `${36_500 + i * 7}` : `lp-${36_500 + i * 7}`));
  for (const text of texts.slice(0, 200)) await ask(text);
  const fresh: number[] = [];
  for (const text of texts.slice(200)) fresh.push(await ask(text));
  const again: number[] = [];
  for (const text of texts.slice(200)) again.push(await ask(text));
  console.log(line('round trip, one after another, asked first', figures(fresh)));
  console.log(line('  the same, asked before', figures(again)));
  socket.close();
}

/** Times of `includes` over all cells, which tell how quick the machine is in this hour. */
function yardstick(rows: readonly (readonly string[])[]): number[] {
  return ['umbrella', 'lp-40518', 'gnome'].map((text) => {
    const began = performance.now();
    let hits = 0;
    for (const row of rows) if (row.some((cell) => cell.includes(text))) hits++;
    return hits < 0 ? 0 : performance.now() - began;
  });
}

/** Readers of both sorts, those with texts of their own first: `OWN_ONLY=1` leaves it at them. */
export async function benchLoad(
  address: string,
  table: number,
  readers: readonly number[],
  seconds: number,
  rows: readonly (readonly string[])[],
): Promise<void> {
  console.log(`\n== load: each reader ${KEYS_A_SECOND} keys a second, ${THREADED.length} columns, ${seconds} s a pass`);
  await roundTrips(address, table);
  const boxes = await sharedBoxes(address, table);
  console.log(
    `budget of p95 with texts of their own: ${OWN_BUDGETS.map(([n, ms]) => `${n} readers ${ms} ms`).join(', ')}`,
  );
  console.log(line(`yardstick: includes over ${rows.length.toLocaleString('en')} rows`, figures(yardstick(rows))));
  for (const count of readers)
    await pass(address, table, count, seconds, { own: cutOut(rows, Number(process.env['SEED'] ?? Date.now())) });
  if (process.env['OWN_ONLY']) return;
  for (const count of readers) {
    await pass(address, table, count, seconds);
    await pass(address, table, count, seconds, { changing: true });
    await pass(address, table, count, seconds, { changing: true, boxes });
  }
}
