import { once } from 'node:events';
import type { OpenedBox, SearchAnswer, Share } from '@usual-needle/contract';
import { WebSocket } from 'ws';
import { pino } from 'pino';
import { KNOWN_MS } from '../dist/access/access.js';
import { Asker, comes, cookieIn, PASSWORD } from './people.js';
import { Running, type Reply } from './running.js';

const CSV = `Item,Status,Worth,Note
red hat,Held,99171,canary one
blue hat,Sold,99172,canary two
red cap,Held,99173,canary three
glove,Held,99174,canary four
`;
/** What no reader may ever be told; but how long a search took may have these digits, too. */
const HIDDEN = /Worth|Note|canary|(?<![\d.])9917\d/;

describe('a shared box', () => {
  let running: Running;
  let machine: Asker;
  let table: number;
  let boxId: number;
  let slug: string;

  const share = (more: Partial<Share> = {}): Share => ({
    ...{ everyone: false, people: [], may: ['narrow', 'sort', 'flip'], columns: ['Item', 'Status'] },
    ...{ searched: [], editable: [], locked: [] },
    ...more,
  });
  const set = async (more: Partial<Share> = {}): Promise<void> => {
    expect((await machine.ask('PUT', `/api/boxes/${boxId}/share`, share(more))).status).toBe(200);
  };
  const keep = async (box: object): Promise<void> => {
    const whole = { format: 'usual-needle box', version: 1, name: 'Desk', ...box };
    expect((await machine.ask('PUT', `/api/boxes/${boxId}`, { box: whole }, { 'if-match': '*' })).status).toBe(200);
  };
  const ask = (method: string, path: string, body?: unknown): Promise<Reply> =>
    running.ask(method, `/api/shared/${slug}${path}`, body);
  const find = async (text: string, question: object = {}, more: object = {}): Promise<SearchAnswer> => {
    const strands = [{ verb: 'find', text }];
    const reply = await ask('POST', '/search', { question: { threaded: ['Item'], strands, ...question }, ...more });
    return reply.body as unknown as SearchAnswer;
  };
  const taken = (more: object = {}): Promise<Reply> =>
    ask('POST', '/take-out', { form: 'csv', question: { threaded: [] }, ...more });
  const newLink = async (): Promise<string> =>
    String((await machine.ask('POST', `/api/boxes/${boxId}/share/link`)).body['path']).replace('/b/', '');

  beforeAll(async () => {
    running = await Running.start(false);
    machine = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
  });
  afterAll(() => running.end());
  beforeEach(async () => {
    table = (await machine.ask('POST', '/api/tables?name=Things', CSV)).body['id'];
    const box = {
      ...{ format: 'usual-needle box', version: 1, name: 'Desk', threaded: ['Item', 'Note'] },
      pickers: [{ column: 'Status', values: [] }],
      columns: [{ name: 'Item' }, { name: 'Worth' }, { name: 'Status' }],
      sort: [{ column: 'Worth', direction: 'up' }],
    };
    boxId = (await machine.ask('POST', `/api/tables/${table}/boxes`, { box })).body['id'];
    await set();
    slug = await newLink();
  });

  it('opens by its link with what its readers have, and nothing else', async () => {
    const { status, body } = await ask('GET', '?opens');
    expect(status).toBe(200);
    const { table: told, stored, may } = body as unknown as OpenedBox;
    expect(told.columns.map(({ name }) => name)).toEqual(['Item', 'Status']);
    expect([stored.box.threaded, stored.box.sort, stored.box.columns]).toEqual([
      ['Item'],
      [],
      [{ name: 'Item' }, { name: 'Status' }],
    ]);
    expect(may).toEqual(['narrow', 'sort', 'flip']);
    expect(JSON.stringify(body)).not.toMatch(HIDDEN);
    expect(slug).toMatch(/^desk-[\w-]{22}$/);
    expect((await machine.ask('GET', `/api/boxes/${boxId}/share`)).body).toEqual(
      jasmine.objectContaining({ link: true, opened: 1 }),
    );
  });

  it('does not tell a text of its builder that names a hidden column', async () => {
    const texts = ['worth:99171', 'a Worth :5', '"Worth":5', 'status:held'];
    const strands = texts.map((text, i) => ({ verb: i === 0 ? 'find' : 'within', text }));
    await keep({ threaded: ['Item'], strands });
    const { body } = await ask('GET', '');
    expect(JSON.stringify(body)).not.toMatch(/worth|9917/i);
    expect(JSON.stringify(body)).toContain('status:held');
  });

  it('answers searches over what its readers see, though the box searches more', async () => {
    expect((await find('hat')).matched).toBe(2);
    expect((await find('canary')).matched).toBe(0);
    expect((await find('99171')).matched).toBe(0);
    const { rows } = await find('red');
    expect(rows.map(({ cells }) => cells)).toEqual([
      ['red hat', 'Held'],
      ['red cap', 'Held'],
    ]);
  });

  it('tells the same of a column that is hidden as of one that never was, byte for byte', async () => {
    const asking: [string, string, (name: string) => object][] = [
      ['search in it', '/search', (name) => ({ question: { threaded: [name] } })],
      [
        'text that names it',
        '/search',
        (name) => ({
          question: { threaded: ['Item'], strands: [{ verb: 'find', text: `${name}:canary` }] },
          brief: true,
        }),
      ],
      ['rows of it', '/search', (name) => ({ question: { threaded: ['Item'] }, columns: [name] })],
      [
        'a picker on it',
        '/search',
        (name) => ({ question: { threaded: [], pickers: [{ column: name, values: ['x'] }] } }),
      ],
      [
        'sorting by it',
        '/search',
        (name) => ({ question: { threaded: [], sort: [{ column: name, direction: 'up' }] } }),
      ],
      ['offers of it', '/offers', (name) => ({ question: { threaded: [] }, column: name })],
      ['its range', '/offers', (name) => ({ question: { threaded: [] }, column: name, of: 'range' })],
      [
        'why nothing is found',
        '/explain',
        (name) => ({ question: { threaded: ['Item'], strands: [{ verb: 'find', text: `${name}:zzz` }] } }),
      ],
      [
        'the next match',
        '/next',
        (name) => ({ question: { threaded: [], pickers: [{ column: name, values: [] }] }, from: -1 }),
      ],
      [
        'an edit',
        '/changes',
        (name) => ({
          key: `key-${name}-1`,
          kind: 'edited',
          columns: [name],
          changed: [{ id: 1, was: [null], now: ['x'] }],
        }),
      ],
    ];
    for (const may of [share().may, ['thread', 'change readings', 'narrow', 'sort', 'edit'] as Share['may']]) {
      await set({ may, editable: ['Item'] });
      for (const [what, path, body] of asking) {
        const said = async (name: string): Promise<string> => {
          const reply = await ask('POST', path, body(name));
          const text = JSON.stringify([reply.status, reply.body]).replace(/"milliseconds":[\d.]+/, '');
          return text.replaceAll(name, 'NAME').replaceAll(name.toLowerCase(), 'name');
        };
        const hidden = await said('Worth');
        expect(hidden)
          .withContext(what)
          .toBe(await said('Wurth'));
        expect(hidden).withContext(what).not.toMatch(HIDDEN);
      }
    }
  });

  it('finds what is in a column that is searched though it is not seen, and shows none of it', async () => {
    await set({ searched: ['Note'] });
    const answer = await find('canary two');
    expect([answer.matched, answer.rows[0].cells, answer.rows[0].marks]).toEqual([1, ['blue hat', 'Sold'], []]);
    expect(JSON.stringify(answer.rows)).not.toMatch(HIDDEN);
    expect(answer.rows[0].also).toBeUndefined();
  });

  it('keeps what is not open to readers as its builder made it, whatever is sent', async () => {
    await keep({
      threaded: ['Item'],
      reading: 'plain text',
      pickers: [{ column: 'Status', values: ['Sold'] }],
      effect: 'show only matches',
    });
    await set({ may: [] });
    const answer = await find('hat', {
      ...{ threaded: ['Status'], reading: 'pattern', effect: 'mark in place', flip: true },
      pickers: [{ column: 'Status', values: [] }],
      sort: [{ column: 'Item', direction: 'down' }],
    });
    expect([answer.matched, answer.shown, answer.narrowed]).toEqual([1, 1, 1]);
    expect((await ask('POST', '/offers', { question: { threaded: [] }, column: 'Status' })).status).toBe(403);
    expect((await ask('GET', '/changes')).status).toBe(403);
    expect((await taken()).status).toBe(403);
    expect((await ask('GET', '/as/csv')).status).toBe(403);
    expect((await ask('GET', '/rows/1/history')).status).toBe(403);
  });

  it('lets pages of the sites that were named fetch its rows, and of no others', async () => {
    const allowed = async (origin: string): Promise<(string | null)[]> => {
      const reply = await fetch(`${running.server.address}/b/${slug}.csv?q=hat`, { headers: { origin } });
      await reply.text();
      const { headers } = reply;
      return ['access-control-allow-origin', 'access-control-allow-credentials'].map((name) => headers.get(name));
    };
    await set({ may: ['take out'] });
    expect(await allowed('https://intranet.example')).toEqual([null, null]);
    await set({ may: ['take out'], sites: ['https://intranet.example'] });
    expect(await allowed('https://intranet.example')).toEqual(['https://intranet.example', null]);
    expect(await allowed('https://intranet.example.org')).toEqual([null, null]);
    const wrong = share({ may: ['take out'], sites: ['*'] });
    expect((await machine.ask('PUT', `/api/boxes/${boxId}/share`, wrong)).status).toBe(400);
  });

  it('tells its readers as a feed of no row and no cell that they may not see', async () => {
    await keep({ threaded: ['Item', 'Note'], pickers: [{ column: 'Status', values: ['Held'] }] });
    await set({ may: ['take out'], columns: ['Item'], searched: ['Note'], locked: ['Status'] });
    const edit = (id: number, column: string, now: string): Promise<Reply> =>
      machine.ask('POST', `/api/tables/${table}/changes`, {
        ...{ key: `feed-of-readers-${id}-${column}`, kind: 'edited', columns: [column] },
        changed: [{ id, was: [null], now: [now] }],
      });
    await edit(1, 'Item', 'umbrella');
    await edit(2, 'Item', 'umbrella outside');
    await edit(3, 'Worth', '99179');
    await edit(4, 'Note', 'canary umbrella');
    const text = await (await fetch(`${running.server.address}/b/${slug}.atom?q=umbrella`)).text();
    expect(text.match(/<entry>/g)?.length).toBe(2);
    expect(text).not.toMatch(HIDDEN);
    expect(text).not.toContain('outside');
    expect(text).toContain('<title>glove</title>');
  });

  it('takes out the columns that are seen only', async () => {
    await set({ may: ['take out'] });
    const { body } = await taken();
    expect(body['text']).toBe(
      'Item,Status\r\nred hat,Held\r\nblue hat,Sold\r\nred cap,Held\r\nglove,Held\r\n' as never,
    );
  });

  it('tells the history of what is seen only', async () => {
    await set({ may: ['see history'] });
    const edit = (column: string, now: string) =>
      machine.ask('POST', `/api/tables/${table}/changes`, {
        ...{
          key: `history-${column}`,
          kind: 'edited',
          columns: [column],
          changed: [{ id: 1, was: [null], now: [now] }],
        },
      });
    await edit('Worth', '99175');
    await edit('Item', 'green hat');
    for (const path of ['/changes', '/changes?brief=true', '/rows/1/history'])
      expect(JSON.stringify((await ask('GET', path)).body)).not.toMatch(HIDDEN);
    const { entries } = (await ask('GET', '/rows/1/history')).body as unknown as { entries: { after: string[] }[] };
    expect(entries.map(({ after }) => after)).toEqual([['green hat', 'Held']]);
  });

  it('lets readers edit the columns that are open to them, and no other', async () => {
    await set({ may: ['edit'], editable: ['Status'] });
    const edit = (column: string, key: string) =>
      ask('POST', '/changes', {
        key,
        kind: 'edited',
        columns: [column],
        changed: [{ id: 1, was: [null], now: ['Gone'] }],
      });
    expect((await edit('Status', 'edit-status')).status).toBe(200);
    expect((await edit('Item', 'edit-item')).status).toBe(403);
    const adds = { key: 'adds-a-row', kind: 'added', columns: ['Item'], added: [['x']] };
    expect((await ask('POST', '/changes', adds)).status).toBe(403);
    const { body } = await machine.ask('GET', `/api/tables/${table}/rows`);
    expect((body['rows'] as { cells: string[] }[])[0].cells).toEqual(['red hat', 'Gone', '99171', 'canary one']);
  });

  const lockings: [name: string, box: object, share: object][] = [
    ['a picker', { threaded: ['Item'], pickers: [{ column: 'Status', values: ['Held'] }] }, { locked: ['Status'] }],
    [
      'a within strand',
      {
        threaded: ['Item'],
        strands: [
          { verb: 'within', text: 'status:held' },
          { verb: 'find', text: '' },
        ],
      },
      { within: true },
    ],
  ];
  it('is of the columns themselves: another one that gets a name of theirs is not open', async () => {
    const change = async (body: object): Promise<void> => {
      const reply = await machine.ask('PATCH', `/api/tables/${table}/columns`, body, { 'if-match': '*' });
      expect(reply.status).toBe(200);
    };
    await change({ name: 'Item', rename: 'Thing' });
    await change({ name: 'Worth', rename: 'Item' });
    await new Promise((done) => setTimeout(done, KNOWN_MS + 200));
    const { rows } = await find('');
    expect(rows.map(({ cells }) => cells[0])).toContain('red hat');
    expect(JSON.stringify(rows)).not.toContain('9917');
    const { body } = await ask('GET', '');
    expect((body as unknown as OpenedBox).table.columns.map(({ name }) => name)).toContain('Thing');
    expect(JSON.stringify(body)).not.toContain('"Item"');
    const { body: told } = await machine.ask('GET', `/api/boxes/${boxId}/share`);
    expect((told['share'] as Share).columns).toContain('Thing');
    await change({ name: 'Item', rename: 'Worth' });
    await change({ name: 'Thing', rename: 'Item' });
  });

  it('shows no row outside of what is locked once a column that the lock needs is removed', async () => {
    for (const [name, box, share] of lockings) {
      await keep(box);
      await set(share);
      expect((await find('')).total).toBe(3);
      const removal = { name: 'Status', removed: true };
      const removed = await machine.ask('PATCH', `/api/tables/${table}/columns`, removal, { 'if-match': '*' });
      expect(removed.status).toBe(200);
      const told = async (): Promise<unknown[]> => {
        const answers = [];
        for (const question of [{}, { flip: true }, { effect: 'mark in place' }]) {
          const answer = await find('', question);
          expect(JSON.stringify(answer)).withContext(name).not.toContain('blue');
          answers.push(answer.total);
        }
        return answers;
      };
      await told();
      // What is known of a box is looked up anew after two seconds.
      await new Promise((done) => setTimeout(done, KNOWN_MS + 200));
      expect(await told())
        .withContext(name)
        .toEqual(name === 'a picker' ? [0, 0, 0] : [3, 3, 3]);
      const { body } = await machine.ask('GET', `/api/tables/${table}/changes?brief=true`);
      const [{ number }] = body['changes'] as { number: number }[];
      expect((await machine.ask('POST', `/api/tables/${table}/changes/${number}/undo`, {})).status).toBe(200);
      await new Promise((done) => setTimeout(done, KNOWN_MS + 200));
      expect((await find('')).total).toBe(3);
    }
  });

  for (const [name, box, share] of lockings)
    describe(`with ${name} that is locked`, () => {
      beforeEach(async () => {
        const { pickers = [] } = box as { pickers?: object[] };
        await keep({ ...box, pickers: [...pickers, { column: 'Item', values: [] }] });
        await set({
          ...share,
          may: ['narrow', 'sort', 'flip', 'edit', 'remove', 'see history', 'take out', 'change readings'],
          editable: ['Item'],
        });
      });

      it('has no rows outside of it: in counts, flipped, marked in place, by places, offers or reasons', async () => {
        for (const question of [
          {},
          { flip: true },
          { effect: 'mark in place' },
          { pickers: [] },
          { need: 'any word' },
        ]) {
          const answer = await find('hat', question);
          expect([answer.total, answer.narrowed, answer.searched])
            .withContext(JSON.stringify(question))
            .toEqual([3, 3, 3]);
          expect(JSON.stringify(answer)).not.toContain('blue');
          expect(answer.trace).toEqual([]);
          expect(answer.rows.every(({ place, position }) => place <= 3 && position < 3)).toBeTrue();
        }
        expect((await find('')).rows.map(({ cells }) => cells[0])).toEqual(['red hat', 'red cap', 'glove']);
        const stays = await find('glove', {}, { stays: [{ id: 2, index: 0 }], places: [2, 4], fresh: [1, 2, 3, 4] });
        expect([stays.rows.length, stays.places, stays.fresh]).toEqual([1, [null, 0], [4]]);
        const offers = await ask('POST', '/offers', { question: { threaded: [] }, column: 'Item' });
        expect(JSON.stringify((await ask('GET', '')).body)).not.toMatch(/status:held|"within"/);
        expect(JSON.stringify(offers.body)).not.toContain('blue');
        expect((await ask('POST', '/offers', { question: { threaded: [] }, column: 'Status' })).status).toBe(422);
        const why = await ask('POST', '/explain', {
          question: { threaded: ['Item'], strands: [{ verb: 'find', text: 'blu' }] },
        });
        expect(why.body).toEqual({ reasons: [], overtaken: false } as never);
      });

      it('lets nobody edit, remove, take out or read the history of a row outside of it', async () => {
        const edit = (id: number, key: string) =>
          ask('POST', '/changes', {
            key,
            kind: 'edited',
            columns: ['Item'],
            changed: [{ id, was: [null], now: ['x'] }],
          });
        const gone = (reply: Reply): string => JSON.stringify([reply.status, reply.body]).replace(/"id":\d+/, '"id":N');
        expect(gone(await edit(2, 'outside-1'))).toBe(gone(await edit(77, 'outside-2')));
        expect((await taken()).body['text']).toBe(
          'Item,Status\r\nred hat,Held\r\nred cap,Held\r\nglove,Held\r\n' as never,
        );
        // By their ids, too, and where the others are asked for.
        expect((await taken({ rows: [1, 2, 3] })).body['text']).toBe(
          'Item,Status\r\nred hat,Held\r\nred cap,Held\r\n' as never,
        );
        const others = { threaded: ['Item'], strands: [{ verb: 'find', text: 'red' }], flip: true };
        expect((await taken({ question: others })).body['text']).toBe('Item,Status\r\nglove,Held\r\n' as never);
        const json = JSON.stringify((await taken({ form: 'json', marks: true })).body);
        expect(json).toContain('"total":3');
        expect(json).not.toContain('blue');
        expect((await edit(1, 'inside-1')).status).toBe(200);
        await ask('POST', '/changes', {
          key: 'removes-outside',
          kind: 'removed',
          columns: [],
          removed: [{ id: 2, seen: 9 }],
        });
        expect((await ask('GET', '/changes')).status).toBe(403);
        expect((await ask('GET', '/rows/2/history')).status).toBe(403);
        const { body } = await machine.ask('GET', `/api/tables/${table}/rows`);
        expect((body['rows'] as { cells: string[] }[]).map(({ cells }) => cells[0])).toEqual([
          'x',
          'blue hat',
          'red cap',
          'glove',
        ]);
      });
    });

  it('is not there by a link that is wrong, old or ended, all in the same words', async () => {
    const said = async (one: string): Promise<unknown> => {
      const { status, body } = await running.ask('GET', `/api/shared/${one}`);
      return [status, body];
    };
    const old = slug;
    slug = await newLink();
    const never = await said('desk-AAAAAAAAAAAAAAAAAAAAAA');
    expect(never).toEqual([404, jasmine.objectContaining({ status: 404 })]);
    expect(await said(old)).toEqual(never);
    expect((await said(slug)) as number[]).toContain(200);
    await machine.ask('DELETE', `/api/boxes/${boxId}/share/link`);
    for (const one of [slug, 'x', '%00', 'null', '__proto__', 'a'.repeat(500)])
      expect(await said(one))
        .withContext(one)
        .toEqual(never);
  });

  it('opens by its number for those it is shared with, and is not there for others', async () => {
    const brandt = await comes(running, machine, { name: 'O. Brandt' });
    const kessel = await comes(running, machine, { name: 'T. Kessel' });
    const opens = async (who: Asker): Promise<number> => (await who.ask('GET', `/api/shared/${boxId}`)).status;
    expect([await opens(brandt), await opens(kessel), await opens(new Asker(running, undefined))]).toEqual([
      404, 404, 401,
    ]);
    const { people } = (await machine.ask('GET', '/api/people')).body as unknown as {
      people: { id: number; name: string }[];
    };
    await set({ people: [people.find(({ name }) => name === 'O. Brandt')!.id] });
    expect([await opens(brandt), await opens(kessel)]).toEqual([200, 404]);
    await set({ everyone: true });
    expect([await opens(brandt), await opens(kessel)]).toEqual([200, 200]);
    const listed = (await kessel.ask('GET', '/api/tables')).body;
    expect([listed['tables'], listed['shared']]).toEqual([[], [{ id: boxId, name: 'Desk' }]] as never[]);
    // Their name is noted with what they do, whatever they say that they are called.
    await set({ everyone: true, may: ['edit'], editable: ['Status'] });
    const edit = {
      key: 'by-kessel-1',
      kind: 'edited',
      who: 'M. Lind',
      columns: ['Status'],
      changed: [{ id: 1, was: [null], now: ['x'] }],
    };
    expect((await kessel.ask('POST', `/api/shared/${boxId}/changes`, edit)).status).toBe(200);
    const { body } = await machine.ask('GET', `/api/tables/${table}/changes?brief=true&limit=1`);
    expect((body['changes'] as { who: string }[])[0].who).toBe('T. Kessel');
  });

  it('is cut off in the middle of what is taken out once taking out is open no more', async () => {
    const letters = 'x'.repeat(2_000);
    const long = Array.from({ length: 12_000 }, (_, i) => `hat ${i} ${letters},Held,1,n\n`).join('');
    const { body: made } = await machine.ask('POST', '/api/tables?name=Long', `Item,Status,Worth,Note\n${long}`);
    const box = { format: 'usual-needle box', version: 1, name: 'Long', threaded: ['Item'] };
    const { body: kept } = await machine.ask('POST', `/api/tables/${made['id']}/boxes`, { box });
    const open = (may: Share['may']): Promise<Reply> =>
      machine.ask('PUT', `/api/boxes/${kept['id']}/share`, share({ may }));
    const { body: link } = await machine.ask('POST', `/api/boxes/${kept['id']}/share/link`);
    const path = `/api/shared/${String(link['path']).replace('/b/', '')}/take-out`;
    // What is compressed on its way is cut off, too, and not waited for without end.
    for (const coding of ['gzip', 'identity']) {
      await open(['take out']);
      const taken = await fetch(running.server.address + path, {
        method: 'POST',
        headers: { 'accept-encoding': coding, 'content-type': 'application/json' },
        body: JSON.stringify({ form: 'csv', question: { threaded: [] } }),
      });
      const reader = taken.body!.getReader();
      let read = (await reader.read()).value!.length;
      await open([]);
      const rest = async (): Promise<void> => {
        for (let { done, value } = await reader.read(); !done; { done, value } = await reader.read())
          read += value!.length;
      };
      await expectAsync(rest()).withContext(coding).toBeRejected();
      expect(read)
        .withContext(coding)
        .toBeLessThan(long.length / 2);
    }
  });

  it('ends soon for who has it open, once its link is renewed', async () => {
    const stream = await fetch(`${running.server.address}/api/shared/${slug}/events`);
    const reader = stream.body!.getReader();
    await reader.read();
    await newLink();
    const began = performance.now();
    await expectAsync(
      (async () => {
        while (!(await reader.read()).done);
        throw new Error('it has ended');
      })(),
    ).toBeRejected();
    expect(performance.now() - began).toBeLessThan(20_000);
    expect((await ask('POST', '/search', { question: { threaded: ['Item'] } })).status).toBe(404);
  });

  /** Asks by the standing connection. @returns the replies */
  const standing = async (messages: readonly object[], cookie?: string): Promise<string[]> => {
    const address = `${running.server.address.replace('http', 'ws')}/api/standing`;
    const socket = new WebSocket(address, { headers: { ...(cookie && { cookie }) } });
    await once(socket, 'open');
    const replies: string[] = [];
    const all = new Promise<void>((done) =>
      socket.on('message', (data) => {
        replies.push((data as Buffer).toString());
        if (replies.length === messages.length) done();
      }),
    );
    for (const message of messages) socket.send(JSON.stringify(message));
    await all;
    socket.close();
    return replies.sort();
  };

  it('is asked by the standing connection within the same scope, and by no table', async () => {
    const asking = (id: number, of: object, text = 'canary', columns?: string[]) => ({
      ...{ id, ...of },
      request: { question: { threaded: ['Item'], strands: [{ verb: 'find', text }] }, ...(columns && { columns }) },
    });
    const replies = await standing([
      asking(1, { box: slug }, 'hat'),
      asking(2, { box: slug }),
      asking(3, { box: slug }, 'hat', ['Worth']),
      asking(4, { table }),
      asking(5, { box: 'desk-AAAAAAAAAAAAAAAAAAAAAA' }),
      asking(6, { table, box: slug }),
      asking(7, {}),
    ]);
    expect(replies.map((reply) => reply.slice(0, 5))).toEqual([
      '1 200',
      '2 200',
      '3 422',
      '4 404',
      '5 404',
      '6 400',
      '7 400',
    ]);
    expect(replies[0]).toContain('"matched":2');
    expect(replies[1]).toContain('"matched":0');
    expect(replies.join()).not.toMatch(/canary t|(?<![\d.])9917/);
  });

  it('tells its readers that something happened, and nothing of what', async () => {
    const stream = await fetch(`${running.server.address}/api/shared/${slug}/events`);
    const reader = stream.body!.getReader();
    const edit = {
      key: 'told-to-readers',
      kind: 'edited',
      who: 'M. Lind',
      columns: ['Worth'],
      changed: [{ id: 2, was: [null], now: ['99176'] }],
    };
    await machine.ask('POST', `/api/tables/${table}/changes`, edit);
    let told = '';
    while (!told.includes('event: change')) told += new TextDecoder().decode((await reader.read()).value);
    expect(told).not.toMatch(/Lind|Worth|99176|\[2\]/);
    await reader.cancel();
  });
});

describe('signing in', () => {
  let running: Running;
  let lind: Asker;
  let logged = '';
  beforeAll(async () => {
    const log = pino({ level: 'trace' }, { write: (line: string) => (logged += line) });
    running = await Running.start(false, undefined, { log });
    lind = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
  });
  afterAll(() => running.end());
  const signIn = (name: string, password: string, headers = {}): Promise<Reply> =>
    running.ask('POST', '/api/sign-in', { name, password }, headers);

  it('leaves this machine without rights once there is somebody, and gives a cookie that scripts cannot read', async () => {
    expect((await running.ask('GET', '/api/tables')).status).toBe(401);
    const reply = await signIn('m. lind', PASSWORD);
    expect(reply.headers.get('set-cookie')).toMatch(
      /^usual-needle=[\w-]{22}; Path=\/; HttpOnly; SameSite=Lax; Max-Age=\d+$/,
    );
    const { body } = await new Asker(running, cookieIn(reply)).ask('GET', '/api/me');
    expect(body).toEqual({
      is: 'person',
      name: 'M. Lind',
      everything: true,
      first: false,
      open: false,
      madeUp: [],
    } as never);
  });

  it('ends on the server, and a cookie that was put there before is not taken over', async () => {
    const planted = 'usual-needle=AAAAAAAAAAAAAAAAAAAAAA';
    const reply = await signIn('M. Lind', PASSWORD, { cookie: planted });
    expect(cookieIn(reply)).not.toBe(planted);
    const one = new Asker(running, cookieIn(reply));
    expect((await one.ask('GET', '/api/tables')).status).toBe(200);
    await one.ask('POST', '/api/sign-out');
    expect((await one.ask('GET', '/api/tables')).status).toBe(401);
  });

  it('says the same of a name that nobody has as of a wrong password, at about the same cost', async () => {
    const timed = async (name: string): Promise<[number, unknown]> => {
      const began = process.cpuUsage();
      const { status, body } = await signIn(name, 'not the password');
      return [process.cpuUsage(began).user, [status, body]];
    };
    await timed('warm');
    const known: number[] = [];
    const unknown: number[] = [];
    for (let i = 0; i < 4; i++) {
      const [took, said] = await timed('M. Lind');
      const [tookOther, saidOther] = await timed(`Nobody ${i}`);
      expect(said).toEqual(saidOther);
      known.push(took);
      unknown.push(tookOther);
    }
    const ratio = Math.min(...known) / Math.min(...unknown);
    expect(ratio).toBeGreaterThan(0.4);
    expect(ratio).toBeLessThan(2.5);
  });

  it('cannot be tried more than ten times a minute, and locks out nobody who has signed in from here', async () => {
    const kessel = await comes(running, lind, { name: 'T. Kessel' });
    expect(kessel.cookie).toContain('=');
    const statuses: number[] = [];
    for (let i = 0; i < 12; i++) statuses.push((await signIn('T. Kessel', `guess number ${i}`)).status);
    expect(statuses).toEqual([...Array<number>(10).fill(403), 429, 429]);
    expect((await signIn('T. Kessel', PASSWORD)).headers.get('retry-after')).toMatch(/^\d+$/);
  });

  it('refuses names that look like another, and takes what turns the writing around out of them', async () => {
    for (const name of ['M. LIND', 'М. Lind', 'M.  Lind', 'M. L1nd', 'M. Lind\u200b', '\u202eM. Lind', 'M. Lińd'])
      expect((await lind.ask('POST', '/api/people', { name })).status)
        .withContext(name)
        .toBe(409);
    expect((await lind.ask('POST', '/api/people', { name: '\u202e' })).status).toBe(409);
    expect((await lind.ask('POST', '/api/people', { name: 'Łucja Ślęzak' })).status).toBe(201);
  });

  it('takes an invitation once, and none that was taken back', async () => {
    const { body } = await lind.ask('POST', '/api/people', { name: 'P. Novak' });
    const secret = String(body['path']).split('/').at(-1)!;
    const use = () => running.ask('POST', `/api/invitations/${secret}`, { password: PASSWORD });
    expect((await running.ask('GET', `/api/invitations/${secret}`)).body).toEqual({ name: 'P. Novak' } as never);
    expect([(await use()).status, (await use()).status]).toEqual([204, 404]);
    const { people } = (await lind.ask('GET', '/api/people')).body as unknown as {
      people: { id: number; name: string }[];
    };
    const novak = people.find(({ name }) => name === 'P. Novak')!.id;
    const again = String((await lind.ask('POST', `/api/people/${novak}/link`)).body['path'])
      .split('/')
      .at(-1)!;
    await lind.ask('DELETE', `/api/people/${novak}/link`);
    expect((await running.ask('POST', `/api/invitations/${again}`, { password: PASSWORD })).status).toBe(404);
    expect(JSON.stringify(await lind.ask('GET', '/api/people'))).not.toContain(again);
  });

  it('is over at once for who is disabled or signed out everywhere, and a role that is taken away is gone', async () => {
    await lind.ask('POST', '/api/tables?name=Things', CSV);
    const varga = await comes(running, lind, { name: 'A. Varga', roles: [{ table: 1, role: 'keeps' }] });
    const { people } = (await lind.ask('GET', '/api/people')).body as unknown as {
      people: { id: number; name: string }[];
    };
    const id = people.find(({ name }) => name === 'A. Varga')!.id;
    const reads = async (): Promise<number> => (await varga.ask('GET', '/api/tables/1')).status;
    expect(await reads()).toBe(200);
    const stream = await fetch(`${running.server.address}/api/tables/1/events`, { headers: { cookie: varga.cookie! } });
    await lind.ask('PATCH', `/api/people/${id}`, { roles: [] });
    expect(await reads()).toBe(404);
    await expectAsync(stream.text()).toBeRejected();
    await lind.ask('PATCH', `/api/people/${id}`, { signedOut: true });
    expect(await reads()).toBe(401);
    const back = new Asker(running, cookieIn(await signIn('A. Varga', PASSWORD)));
    await lind.ask('PATCH', `/api/people/${id}`, { disabled: true });
    expect((await back.ask('GET', '/api/tables')).status).toBe(401);
    expect((await signIn('A. Varga', PASSWORD)).status).toBe(403);
    const { changes } = (await lind.ask('GET', '/api/people')).body as unknown as {
      changes: { who: string; what: string }[];
    };
    expect(changes.slice(0, 3).map(({ who, what }) => `${who} ${what}`)).toEqual([
      'M. Lind disabled A. Varga',
      'M. Lind signed A. Varga out everywhere',
      'M. Lind made A. Varga a reader of what is shared',
    ]);
  });

  it('lets nobody borrow from, or hear of, a table that is not theirs', async () => {
    const ids: number[] = [];
    for (const name of ['Own', 'Theirs'])
      ids.push((await lind.ask('POST', `/api/tables?name=${name}`, CSV)).body['id']);
    const [own, theirs] = ids;
    const novak = await comes(running, lind, { name: 'J. Builder', roles: [{ table: own, role: 'builds' }] });
    const pairing = { table: theirs, key: 'Item', matches: 'Item' };
    expect((await novak.ask('POST', `/api/tables/${own}/pairing`, pairing)).status).toBe(422);
    expect((await novak.ask('GET', `/api/tables/${own}/lenders`)).body).toEqual({ pairings: [] } as never);
    const borrow = { ...pairing, columns: [{ column: 'Note' }] };
    const reply = await novak.ask('POST', `/api/tables/${own}/columns`, { borrow }, { 'if-match': '*' });
    const never = await novak.ask(
      'POST',
      `/api/tables/${own}/columns`,
      { borrow: { ...borrow, table: 999 } },
      { 'if-match': '*' },
    );
    expect([reply.status, reply.body]).toEqual([never.status, never.body]);
    expect(reply.status).toBe(422);
    const back = { table: own, key: 'Item', matches: 'Item', columns: [{ column: 'Note' }] };
    await lind.ask('POST', `/api/tables/${theirs}/columns`, { borrow: back }, { 'if-match': '*' });
    const dependents = await novak.ask('GET', `/api/tables/${own}/dependents`);
    expect(JSON.stringify(dependents.body)).not.toContain('Theirs');
  });

  it('shows a table as it was to nobody who has no role on it, though its number is known', async () => {
    const { body } = await lind.ask('POST', '/api/tables?name=Then', CSV);
    const then = (await lind.ask('POST', `/api/tables/${body['id']}/earlier`, { at: 1 })).body['id'] as number;
    const reader = await comes(running, lind, { name: 'Some Reader' });
    const ask = (who: Asker, id: number): Promise<Reply> =>
      who.ask('POST', `/api/tables/${id}/search`, { question: { threaded: ['Item'] } });
    expect((await ask(reader, then)).status).toBe(404);
    expect((await ask(new Asker(running, undefined), then)).status).toBe(401);
    expect([200, 503]).toContain((await ask(lind, then)).status);
  });

  it('writes no password, cookie or link into the log, and no line that a name has made', async () => {
    const secrets = [PASSWORD, 'a wrong password', lind.cookie!.split('=')[1]];
    await signIn('Nobody\n{"level":60,"msg":"forged"}', 'a wrong password');
    const { body } = await lind.ask('POST', '/api/people', { name: 'Told of nowhere' });
    const secret = String(body['path']).split('/').at(-1)!;
    secrets.push(secret);
    for (const path of ['/api/invitations/', '/come/', '/api/shared/desk-', '/b/desk-'])
      await running.ask('GET', path + secret);
    expect(logged).toContain('answered');
    for (const secret of secrets) expect(logged).not.toContain(secret);
    expect(logged).not.toContain('forged');
  });

  it('keeps somebody who builds everything, whatever is asked', async () => {
    const { people } = (await lind.ask('GET', '/api/people')).body as unknown as {
      people: { id: number; name: string }[];
    };
    const me = people.find(({ name }) => name === 'M. Lind')!.id;
    expect((await lind.ask('PATCH', `/api/people/${me}`, { disabled: true })).status).toBe(409);
    expect((await lind.ask('PATCH', `/api/people/${me}`, { everything: false })).status).toBe(409);
  });

  it('changes a password only for who knows the one before, and ends all other sign-ins', async () => {
    const brandt = await comes(running, lind, { name: 'O. Brandt' });
    const other = new Asker(running, cookieIn(await signIn('O. Brandt', PASSWORD)));
    const change = (before: string) =>
      brandt.ask('PUT', '/api/me/password', { before, password: 'another long password' });
    expect((await change('wrong')).status).toBe(403);
    expect((await brandt.ask('PUT', '/api/me/password', { before: PASSWORD, password: 'short' })).status).toBe(400);
    expect((await change(PASSWORD)).status).toBe(204);
    expect((await other.ask('GET', '/api/tables')).status).toBe(401);
    expect((await signIn('O. Brandt', PASSWORD)).status).toBe(403);
    expect((await signIn('O. Brandt', 'another long password')).status).toBe(204);
  });
});

describe('a server that others reach', () => {
  it('answers nobody before its first builder has come by the link, which works once', async () => {
    const running = await Running.start(false, undefined, { host: '0.0.0.0' });
    try {
      expect((await running.ask('GET', '/api/tables')).status).toBe(401);
      expect((await running.ask('GET', '/api/me')).body).toEqual(
        jasmine.objectContaining({ is: 'nobody', first: true }),
      );
      const secret = running.server.firstLink!.split('/').at(-1)!;
      const come = (name?: string) =>
        running.ask('POST', `/api/invitations/${secret}`, { password: PASSWORD, ...(name !== undefined && { name }) });
      expect((await come()).status).toBe(409);
      const first = await come('M. Lind');
      expect(first.status).toBe(204);
      expect((await new Asker(running, cookieIn(first)).ask('GET', '/api/tables')).status).toBe(200);
      expect((await come('Another')).status).toBe(404);
    } finally {
      await running.end();
    }
  });

  it('takes nobody for this machine whom a proxy on it passes on', async () => {
    const running = await Running.start(false);
    try {
      expect((await running.ask('GET', '/api/tables')).status).toBe(200);
      const passedOn: Record<string, string>[] = [
        { 'x-forwarded-for': '203.0.113.9' },
        { forwarded: 'for=203.0.113.9' },
      ];
      for (const headers of passedOn)
        expect((await running.ask('GET', '/api/tables', undefined, headers)).status).toBe(401);
    } finally {
      await running.end();
    }
  });

  it('takes a cookie for HTTPS only where a proxy that is trusted says that it is', async () => {
    const running = await Running.start(false, undefined, { proxy: true });
    try {
      expect((await running.ask('GET', '/api/tables')).status).toBe(401);
      const secret = running.server.firstLink!.split('/').at(-1)!;
      const come = await running.ask('POST', `/api/invitations/${secret}`, { name: 'M. Lind', password: PASSWORD });
      expect(cookieIn(come)).toMatch(/^usual-needle=/);
      const reply = await running.ask(
        'POST',
        '/api/sign-in',
        { name: 'M. Lind', password: PASSWORD },
        { 'x-forwarded-proto': 'https' },
      );
      expect(reply.headers.get('set-cookie')).toMatch(
        /^__Host-usual-needle=[\w-]{22}; Path=\/; HttpOnly; SameSite=Lax; Max-Age=\d+; Secure$|^__Host-usual-needle=[^;]+; Path=\/; HttpOnly; SameSite=Lax; Max-Age=\d+; Secure/,
      );
    } finally {
      await running.end();
    }
  });
});
