import { mkdtemp, readdir, readFile, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import type { Source, SourceRuns, SourceTold } from '@usual-needle/contract';
import { pino } from 'pino';
import { Depot } from './depot.js';
import { Asker, comes } from './people.js';
import { Running, type Reply } from './running.js';

const HEAD = 'No,Thing\n';
const FIRST = `${HEAD}1,hat\n2,key\n3,glove\n4,cap\n`;
const MINUTE = 60_000;

describe('a table that refreshes itself', () => {
  let running: Running;
  let depot: Depot;
  let tray: string;
  let clock = Date.parse('2026-11-28T12:00:00Z');
  let table = 0;
  let path = '';
  const logged: string[] = [];

  beforeAll(async () => {
    depot = await Depot.open();
    tray = await mkdtemp(join(tmpdir(), 'usual-needle-tray-'));
    running = await Running.start(false, undefined, {
      sources: { allowed: ['127.0.0.1'], inTray: tray, now: () => new Date(clock) },
      log: pino({ level: 'trace' }, { write: (line: string) => void logged.push(line) }),
    });
  });
  afterAll(async () => {
    await running.end();
    await depot.close();
    await rm(tray, { recursive: true, force: true });
  });
  beforeEach(async () => {
    table = (await running.ask('POST', '/api/tables?name=Found', FIRST)).body['id'];
    path = `/api/tables/${table}/source`;
    Object.assign(depot, { content: FIRST, etag: undefined, otherwise: undefined });
    depot.asked.length = 0;
  });
  afterEach(async () => {
    await running.ask('DELETE', path);
  });

  const source = (more: Partial<Source> = {}): Source => ({
    from: { address: `${depot.address}/found.csv`, signIn: 'none' },
    rhythm: { every: 'minutes', number: 15 },
    ...{ key: ['No'], gone: 'keep', most: 50 },
    ...more,
  });
  const keep = async (more: Partial<Source> = {}, rest: object = {}): Promise<Reply> => {
    const reply = await running.ask('PUT', path, { source: source(more), ...rest }, { 'if-match': '*' });
    expect(reply.status).withContext(JSON.stringify(reply.body)).toBe(200);
    return reply;
  };
  const told = async (): Promise<SourceTold> => (await running.ask('GET', path)).body as unknown as SourceTold;
  const runsOf = async (): Promise<SourceRuns['runs']> =>
    ((await running.ask('GET', `${path}/runs`)).body as unknown as SourceRuns).runs;
  const later = async (minutes: number): Promise<SourceTold> => {
    clock += minutes * MINUTE;
    await running.server.sources.rounds.goRound();
    return told();
  };
  const things = async (): Promise<string[]> => {
    const { body } = await running.ask('GET', `/api/tables/${table}/rows?limit=100`);
    return (body['rows'] as { cells: string[] }[]).map(({ cells }) => cells.join(' '));
  };

  it('is tried before it is kept, and nothing happens', async () => {
    depot.content = `${HEAD}1,hat\n2,keys\n5,comb\n`;
    const { status, body } = await running.ask('POST', `${path}/try`, { source: source() });
    expect([status, body['added'], body['changed'], body['gone']]).toEqual([200, 1, 1, 2] as never);
    expect((await running.ask('GET', path)).status).toBe(404);
    expect(await things()).toEqual(['1 hat', '2 key', '3 glove', '4 cap']);
  });

  it('takes what is new when it is due, as one change that is undone in one step', async () => {
    await keep();
    depot.content = `${HEAD}1,hat\n2,keys\n3,glove\n4,cap\n5,comb\n`;
    expect((await later(14)).last).toBeNull();
    const now = await later(1);
    expect(now.last).toEqual(
      jasmine.objectContaining({ outcome: 'done', counts: { added: 1, changed: 1, gone: 0 }, change: 2, missed: 0 }),
    );
    expect([now.inARow, now.next, now.rowsFrom]).toEqual([
      1,
      new Date(clock + 15 * MINUTE).toISOString(),
      new Date(clock).toISOString(),
    ]);
    expect(await things()).toEqual(['1 hat', '2 keys', '3 glove', '4 cap', '5 comb']);
    expect((await running.find(table, 'comb', ['Thing'])).body['matched']).toBe(1 as never);
    const [change] = (await running.ask('GET', `/api/tables/${table}/changes?after=1`)).body['changes'] as {
      kind: string;
      who: string;
    }[];
    expect([change.kind, change.who]).toEqual(['refreshed', 'Its source']);
    expect((await running.ask('POST', `/api/tables/${table}/changes/2/undo`, {})).status).toBe(200);
    expect(await things()).toEqual(['1 hat', '2 key', '3 glove', '4 cap']);
    expect((await later(15)).last!.outcome).toBe('same');
  });

  it('asks only whether something is new, where the server tells that', async () => {
    depot.etag = '"one"';
    await keep();
    await later(15);
    expect((await later(15)).last!.outcome).toBe('same');
    expect(depot.asked.map(({ headers }) => headers['if-none-match'])).toEqual([undefined, '"one"']);
    Object.assign(depot, { etag: '"two"', content: `${FIRST}9,ring\n` });
    expect((await later(15)).last!.outcome).toBe('done');
  });

  it('waits where more would change than its builder wants, until they have decided', async () => {
    await keep({ gone: 'remove' });
    depot.content = `${HEAD}1,hat\n`;
    const waits = await later(15);
    expect(waits.waiting).toEqual({
      since: new Date(clock).toISOString(),
      why: '3 of 4 rows would go',
      counts: { added: 0, changed: 0, gone: 3 },
    });
    expect([waits.next, waits.inARow]).toEqual([null, 0]);
    expect((await running.ask('GET', `/api/tables/${table}`)).body['lateSince']).toBeDefined();
    await later(60);
    expect(depot.asked.length).toBe(1);
    expect((await running.ask('POST', `${path}/try`, {})).body['gone']).toBe(3 as never);
    expect((await things()).length).toBe(4);
    const left = await running.ask('POST', `${path}/leave`);
    expect([left.body['waiting'], left.body['last']['outcome']]).toEqual([null, 'left'] as never);
    // What was left is not asked about again; what comes after it is.
    expect((await later(15)).last!.outcome).toBe('same');
    depot.content = `${HEAD}1,hats\n`;
    expect((await later(15)).waiting!.why).toBe('1 of 4 rows would change, and 3 would go');
    const done = await running.ask('POST', `${path}/run`, { anyway: true });
    expect([done.body['waiting'], done.body['last']['outcome']]).toEqual([null, 'done'] as never);
    expect(await things()).toEqual(['1 hats']);
    expect((await running.ask('GET', `/api/tables/${table}`)).body['lateSince']).toBeUndefined();
    expect((await running.ask('POST', `${path}/leave`)).status).toBe(409);
  });

  const waits: [what: string, content: string, why: RegExp][] = [
    ['a key that stands twice', `${FIRST}1,other\n`, /twice|same|repeated|1/],
    ['a blank key', `${FIRST},other\n`, /blank|key/],
    ['a file that is none', `${HEAD}1,hat,more\n`, /cell/],
    ['a column less that a box needs', 'No\n1\n2\n3\n4\n', /the column “Thing” is missing, which “Look-up” needs/],
    ['a key column less', 'Thing\nhat\n', /key/],
  ];
  for (const [what, content, why] of waits)
    it(`waits for its builder with ${what}`, async () => {
      const box = { format: 'usual-needle box', version: 1, name: 'Look-up', threaded: ['Thing'] };
      await running.ask('POST', `/api/tables/${table}/boxes`, { box });
      await keep();
      depot.content = content;
      const { waiting } = await later(15);
      expect(waiting?.why).toMatch(why);
      expect(await things()).toEqual(['1 hat', '2 key', '3 glove', '4 cap']);
    });

  it('is tried again soon where it failed, and says on every sheet from when its rows are after three times', async () => {
    await keep({ rhythm: { every: 'day', at: '02:00', zone: 'Etc/UTC' } });
    depot.otherwise = (response) => response.writeHead(500).end();
    const due = Date.parse((await told()).next!);
    clock = due;
    const failures = [await later(0), await later(1), await later(5)];
    expect(failures.map(({ failures: count }) => count)).toEqual([1, 2, 3]);
    expect(failures[0].last!.why).toBe('127.0.0.1 answered with 500');
    expect(failures[1].next).toBe(new Date(due + 6 * MINUTE).toISOString());
    expect((await running.ask('GET', `/api/tables/${table}`)).body['lateSince']).toBeDefined();
    depot.otherwise = undefined;
    const now = await later(15);
    expect([now.last!.outcome, now.failures, now.next]).toEqual([
      'same',
      0,
      new Date(due + 24 * 60 * MINUTE).toISOString(),
    ]);
    expect((await running.ask('GET', `/api/tables/${table}`)).body['lateSince']).toBeUndefined();
    expect((await runsOf()).map(({ outcome }) => outcome)).toEqual(['same', 'failed', 'failed', 'failed']);
  });

  it('makes up once for what was missed, and says how often that was', async () => {
    await keep();
    const now = await later(15 * 8 + 3);
    expect([now.last!.missed, (await runsOf()).length]).toEqual([7, 1]);
    expect((Date.parse(now.next!) - Date.parse(now.last!.due)) % (15 * MINUTE)).toBe(0);
  });

  it('gives its secret to its server only, and tells it to nobody', async () => {
    const secret = { user: 'depot', password: 'p:ass word' };
    const from = { address: `${depot.address}/found.csv`, signIn: 'password' } as const;
    const lines: string[] = [];
    const kept = await keep({ from }, { secret });
    expect(kept.body['hasSecret']).toBe(true as never);
    await later(15);
    expect(depot.asked[0].headers.authorization).toBe(`Basic ${Buffer.from('depot:p:ass word').toString('base64')}`);
    for (const address of [path, `${path}/runs`, '/api/sources', `/api/tables/${table}`, '/api/tables'])
      lines.push(JSON.stringify((await running.ask('GET', address)).body));
    for (const line of [...lines, ...logged]) expect(line).not.toMatch(/p:ass|ZGVwb3Q/);
    // Another address on the same server keeps it; another server has to be given it.
    await keep({ from: { ...from, address: `${depot.address}/other.csv` } });
    const other = await Depot.open();
    const elsewhere = { source: source({ from: { ...from, address: `${other.address}/found.csv` } }) };
    for (const [method, where] of [
      ['PUT', path],
      ['POST', `${path}/try`],
    ]) {
      const refused = await running.ask(method, where, elsewhere, { 'if-match': '*' });
      expect([refused.status, refused.body['title']]).toEqual([422, 'The secret is missing'] as never);
    }
    // One that leads elsewhere is followed without it.
    depot.otherwise = (response) => response.writeHead(302, { location: `${other.address}/found.csv` }).end();
    other.content = FIRST;
    expect((await later(15)).last!.outcome).toBe('same');
    expect([other.asked.length, other.asked[0].headers.authorization]).toEqual([1, undefined]);
    await other.close();
    await keep({ from: { ...from, signIn: 'token' } }, { secret: { token: 'abc' } });
    depot.otherwise = undefined;
    await later(15);
    expect(depot.asked.at(-1)!.headers.authorization).toBe('Bearer abc');
  });

  it('takes what is packed, and no more than it may', async () => {
    await keep();
    depot.otherwise = (response) =>
      response
        .writeHead(200, { 'content-type': 'text/csv', 'content-encoding': 'gzip' })
        .end(gzipSync(`${FIRST}5,comb\n`));
    expect((await later(15)).last!.outcome).toBe('done');
    depot.otherwise = (response) => response.writeHead(200, { 'content-encoding': 'gzip' }).end('no gzip');
    expect((await later(15)).last!.outcome).toBe('failed');
    depot.otherwise = (response) =>
      response.writeHead(200, { 'content-length': '100' }).end('No,Thing\n', () => response.destroy());
    expect((await later(15)).last!.outcome).toBe('failed');
    expect((await things()).length).toBe(5);
  });

  const refused: [what: string, source: () => object, title: RegExp, detail: RegExp][] = [
    [
      'an address of the own network',
      () => source({ from: { address: 'http://10.0.0.9:1/x', signIn: 'none' } }),
      /gives no rows/,
      /own network.*--allow-source 10.0.0.9/,
    ],
    [
      'an address of the machine’s keeper',
      () => source({ from: { address: 'http://169.254.169.254/latest', signIn: 'none' } }),
      /gives no rows/,
      /own network/,
    ],
    [
      'an address with a secret in it',
      () => source({ from: { address: 'http://a:b@depot.example/x', signIn: 'none' } }),
      /holds a secret/,
      /apart/,
    ],
    [
      'an address of a file',
      () => ({ ...source(), from: { address: 'file:///etc/passwd', signIn: 'none' } }),
      /cannot be read|does not/,
      /./,
    ],
    [
      'a database that nobody has named',
      () => source({ from: { connection: 'claims', query: 'select 1' } }),
      /gives no rows/,
      /knows no database called “claims”/,
    ],
    [
      'a time zone that is none',
      () => source({ rhythm: { every: 'day', at: '02:00', zone: 'Nowhere' } }),
      /gives no rows/,
      /no time zone/,
    ],
    [
      'a database that is to say when it changes',
      () => source({ from: { connection: 'claims', query: 'select 1' }, rhythm: { every: 'change' } }),
      /does not say/,
      /how often/,
    ],
    ['a file outside of the in-tray', () => ({ ...source(), from: { file: '../x.csv' } }), /./, /./],
    [
      'a file that is not there',
      () => source({ from: { file: 'x.csv' } }),
      /gives no rows/,
      /no “x.csv” in the in-tray/,
    ],
  ];
  for (const [what, asked, title, detail] of refused)
    it(`refuses ${what}, with a sentence`, async () => {
      const reply = await running.ask('POST', `${path}/try`, { source: asked() });
      expect([400, 422]).toContain(reply.status);
      expect(reply.body['title']).toMatch(title);
      expect(String(reply.body['detail'] ?? JSON.stringify(reply.body))).toMatch(detail);
    });

  it('leads nowhere by an address that leads to the own network, or in circles', async () => {
    await keep();
    for (const location of ['http://[::1]:9/x', 'http://10.0.0.1/', 'file:///etc/passwd', '/again']) {
      depot.otherwise = (response) => response.writeHead(302, { location }).end();
      const { last } = await later(15);
      expect([last!.outcome, /own network|leads/.test(last!.why!)])
        .withContext(`${location}: ${last!.why}`)
        .toEqual(['failed', true]);
    }
  });

  it('takes files from the in-tray once they are whole, and puts them aside', async () => {
    await keep({ from: { file: 'found-*.csv' }, rhythm: { every: 'change' } });
    const put = async (name: string, content: string): Promise<void> => {
      await writeFile(join(tray, name), content);
      const at = new Date(clock - 1_000);
      await utimes(join(tray, name), at, at);
    };
    await put('found-1.csv', `${FIRST}5,comb\n`);
    await put('other.csv', FIRST);
    expect((await later(0)).last).toBeNull();
    await put('found-1.csv', `${FIRST}5,comb\n6,ring\n`);
    expect((await later(0.1)).last).toBeNull();
    expect((await later(0.1)).last!.outcome).toBe('done');
    expect((await things()).length).toBe(6);
    expect(await readdir(tray)).toEqual(['done', 'other.csv', 'refused']);
    expect((await readdir(join(tray, 'done')))[0]).toMatch(/^found-1 2026-.*\.csv$/);
    // The same once more is nothing new, and is put aside, too.
    await put('found-1.csv', `${FIRST}5,comb\n6,ring\n`);
    await later(0);
    expect((await later(0.2)).last!.outcome).toBe('done');
    expect(await readdir(tray)).toEqual(['done', 'other.csv', 'refused']);
    await put('found-2.csv', `${HEAD}1,a\n2,b\n3,c\n4,d\n`);
    await later(0);
    expect((await later(0.2)).waiting!.why).toBe('4 of 6 rows would change');
    expect((await running.ask('POST', `${path}/leave`)).status).toBe(200);
    const aside = (await readdir(join(tray, 'refused'))).sort();
    expect(aside.length).toBe(2);
    expect(await readFile(join(tray, 'refused', aside[1]), 'utf8')).toBe('4 of 6 rows would change\n');
    // A link is no file that lies here.
    await rm(join(tray, 'other.csv'));
  });

  it('is one at a time, and one that somebody else has changed meanwhile is over without a trace', async () => {
    await keep();
    let answer: (() => void) | undefined;
    depot.otherwise = (response) =>
      void (answer = () => response.writeHead(200, { 'content-type': 'text/csv' }).end(`${FIRST}7,cup\n`));
    clock += 15 * MINUTE;
    const round = running.server.sources.rounds.goRound();
    while (!answer) await new Promise((done) => setTimeout(done, 5));
    expect((await running.ask('POST', `${path}/run`, {})).status).toBe(409);
    expect((await told()).running).toBe(true);
    await keep({ most: 1 });
    answer();
    await round;
    expect((await things()).length).toBe(4);
    expect(await runsOf()).toEqual([]);
  });

  it('is compared anew where somebody edits the table meanwhile, and takes nothing of theirs away', async () => {
    await keep();
    depot.content = `${FIRST}5,comb\n`;
    const { changes } = running.server.data;
    const ready = changes.readyToRefresh.bind(changes);
    let edits = 0;
    spyOn(changes, 'readyToRefresh').and.callFake(async (id: number) => {
      await ready(id);
      if (edits++ > 1) return;
      const edit = {
        kind: 'edited',
        columns: ['Thing'],
        changed: [{ id: 1, was: [edits === 1 ? 'hat' : 'hat 1'], now: [`hat ${edits}`] }],
      };
      expect(
        (await running.ask('POST', `/api/tables/${table}/changes`, { key: `sources-edit-${edits}`, ...edit })).status,
      ).toBe(200);
    });
    expect((await later(15)).last!.outcome).toBe('done');
    expect(await things()).toEqual(['1 hat 2', '2 key', '3 glove', '4 cap', '5 comb']);
    expect(depot.asked.length).toBe(3);
  });

  it('takes what it waited for once its builder has raised the measure', async () => {
    await keep({ gone: 'remove' });
    depot.content = `${HEAD}1,hat\n`;
    expect((await later(15)).waiting).not.toBeNull();
    await keep({ gone: 'remove', most: 90 });
    expect((await later(15)).last!.outcome).toBe('done');
    expect((await things()).length).toBe(1);
  });

  it('that takes long keeps no other from being run, nor the server from ending', async () => {
    await keep();
    const other = (await running.ask('POST', '/api/tables?name=Other', FIRST)).body['id'] as number;
    const quick = await Depot.open();
    quick.content = `${FIRST}5,comb\n`;
    const from = { address: `${quick.address}/x.csv`, signIn: 'none' };
    const of = `/api/tables/${other}/source`;
    await running.ask('PUT', of, { source: { ...source(), from, rhythm: { every: 'minutes', number: 20 } } });
    depot.otherwise = () => undefined;
    clock += 16 * MINUTE;
    const rounds = running.server.sources.rounds;
    const slow = rounds.goRound();
    while (depot.asked.length === 0) await new Promise((done) => setTimeout(done, 5));
    clock += 5 * MINUTE;
    await rounds.goRound();
    expect((await running.ask('GET', of)).body['last']['outcome']).toBe('done' as never);
    expect((await told()).running).toBe(true);
    await running.ask('DELETE', of);
    await quick.close();
    await depot.drop();
    await slow;
    expect((await told()).last!.outcome).toBe('failed');
  });

  it('is kept by who knows the last version only', async () => {
    await keep();
    const put = (match: string): Promise<Reply> =>
      running.ask('PUT', path, { source: source() }, { 'if-match': match });
    expect((await put('"9"')).status).toBe(412);
    expect((await put('"1"')).status).toBe(200);
    expect((await running.ask('PUT', path, { source: source() })).status).toBe(428);
  });

  it('goes with its table, and comes back with it', async () => {
    await keep();
    await running.ask('DELETE', `/api/tables/${table}`);
    clock += 15 * MINUTE;
    await running.server.sources.rounds.goRound();
    expect(depot.asked.length).toBe(0);
    await running.ask('POST', `/api/tables/${table}/restore`);
    expect((await later(0)).last!.outcome).toBe('same');
  });
});

describe('a source among people', () => {
  it('of a database or the in-tray is for who builds everything; an address for who builds the table', async () => {
    const running = await Running.start(false);
    const machine = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    const table = (await machine.ask('POST', '/api/tables?name=Found', FIRST)).body['id'] as number;
    const builder = await comes(running, machine, { name: 'T. Kessel', roles: [{ table, role: 'builds' }] });
    const path = `/api/tables/${table}/source`;
    const rest = { rhythm: { every: 'hours', number: 1 }, key: ['No'], gone: 'keep', most: 5 };
    const put = async (from: object): Promise<number> =>
      (await builder.ask('PUT', path, { source: { from, ...rest } }, { 'if-match': '*' })).status;
    expect(await put({ connection: 'claims', query: 'select 1' })).toBe(403);
    expect(await put({ file: 'x.csv' })).toBe(403);
    expect(await put({ address: 'https://depot.example/x.csv', signIn: 'none' })).toBe(200);
    await running.end();
  });
});
