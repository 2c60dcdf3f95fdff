import { isForTokens, MATRIX } from '../dist/access/matrix.js';
import { Asker, comes } from './people.js';
import { Running } from './running.js';

const KINDS = ['reads', 'keeps', 'refreshes', 'everything'] as const;
type Kind = (typeof KINDS)[number];

describe('Tokens for programs', () => {
  let running: Running;
  let lind: Asker;
  let varga: Asker;
  let box: number;

  /** Somebody's program: it has a token, and no cookie. */
  const program = (token: string): { ask: Asker['ask'] } => ({
    ask: (method, path, body, headers = {}) =>
      running.ask(method, path, body, { authorization: `Bearer ${token}`, ...headers }),
  });
  const made = async (by: Asker, kind: Kind, tables?: number[]): Promise<{ id: number; token: string }> => {
    const { status, body } = await by.ask('POST', '/api/tokens', {
      name: 'Nightly',
      kind,
      days: 7,
      ...(tables && { tables }),
    });
    expect(status).toBe(201);
    return body as unknown as { id: number; token: string };
  };

  beforeAll(async () => {
    running = await Running.start(false);
    lind = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    for (const name of ['Found', 'Lost']) await lind.ask('POST', `/api/tables?name=${name}`, 'No,Item\n1,hat\n2,cap\n');
    varga = await comes(running, lind, {
      name: 'A. Varga',
      roles: [
        { table: 1, role: 'builds' },
        { table: 2, role: 'keeps' },
      ],
    });
    const definition = { format: 'usual-needle box', version: 1, name: 'Look-up', threaded: ['Item'] };
    box = (await lind.ask('POST', '/api/tables/2/boxes', { box: definition })).body['id'];
    const share = { everyone: true, people: [], may: [], columns: ['Item'], searched: [], editable: [], locked: [] };
    await lind.ask('PUT', `/api/boxes/${box}/share`, share);
  });
  afterAll(() => running.end());

  for (const kind of KINDS)
    it(`${kind}: uses the routes that are for it, and no other`, async () => {
      const { token } = await made(lind, kind);
      for (const row of MATRIX) {
        if (
          row.path.endsWith('/events') ||
          (row.method === 'DELETE' && isForTokens(row, kind)) ||
          row.path === '/api/demo'
        )
          continue;
        const path = row.path
          .replace('/api/boxes/:id', `/api/boxes/${box}`)
          .replace('/api/shared/:slug', `/api/shared/${box}`)
          .replace(/:\w+/g, '1');
        const body = row.method === 'GET' || row.method === 'DELETE' ? undefined : { nothing: 'such' };
        const reply = await program(token).ask(row.method, path, body);
        const isRefused = reply.body['title'] === ('This token may not do that' as never);
        expect(isRefused).withContext(`${row.method} ${row.path} ${reply.status}`).toBe(!isForTokens(row, kind));
        if (isRefused) expect(reply.status).toBe(403);
      }
    });

  it('does what its person may, and no more', async () => {
    const { token } = await made(varga, 'everything');
    const asks = program(token);
    expect((await asks.ask('PATCH', '/api/tables/1', { description: 'x' }, { 'if-match': '*' })).status).toBe(200);
    expect((await asks.ask('PATCH', '/api/tables/2', { description: 'x' }, { 'if-match': '*' })).status).toBe(403);
    expect((await asks.ask('POST', '/api/tables?name=New', 'A\n1\n')).status).toBe(403);
  });

  it('does it in its tables only, the boxes of others included', async () => {
    const asks = program((await made(varga, 'keeps', [1])).token);
    expect((await asks.ask('GET', '/api/tables/1')).status).toBe(200);
    const [theirs, never] = [await asks.ask('GET', '/api/tables/2'), await asks.ask('GET', '/api/tables/99')];
    expect([theirs.status, theirs.body]).toEqual([never.status, never.body]);
    expect((await asks.ask('GET', `/api/boxes/${box}`)).status).toBe(404);
    expect((await asks.ask('GET', `/api/shared/${box}`)).status).toBe(404);
    const { body } = await asks.ask('GET', '/api/tables');
    const { tables, boxes, shared } = body as unknown as Record<string, unknown[]>;
    expect([tables.length, boxes, shared]).toEqual([1, [], []]);
    expect((await varga.ask('GET', `/api/shared/${box}`)).status).toBe(200);
  });

  it('is for tables of who makes it, and made by somebody who is signed in', async () => {
    const asked = { name: 'n', kind: 'reads', days: 1, tables: [3] };
    expect((await varga.ask('POST', '/api/tokens', asked)).status).toBe(422);
    expect((await new Asker(running, undefined).ask('POST', '/api/tokens', asked)).status).toBe(401);
    for (const wrong of [{ days: 0 }, { days: 400 }, { kind: 'rules' }, { name: ' ' }, { tables: [] }])
      expect((await varga.ask('POST', '/api/tokens', { name: 'n', kind: 'reads', days: 1, ...wrong })).status)
        .withContext(JSON.stringify(wrong))
        .toBe(400);
  });

  it('refreshes, and is told of no cell', async () => {
    const asks = program((await made(lind, 'refreshes', [1])).token);
    const newer = 'No,Item\n1,hat\n3,glove\n';
    const seen = await lind.ask('PUT', '/api/tables/1/rows?key=No&gone=remove&preview=true', newer);
    expect((seen.body['rows'] as unknown[]).length).toBeGreaterThan(0);
    const blind = await asks.ask('PUT', '/api/tables/1/rows?key=No&gone=remove&preview=true', newer);
    expect(blind.status).toBe(200);
    expect([blind.body['added'], blind.body['gone']]).toEqual([1, 1] as never[]);
    expect(JSON.stringify(blind.body)).not.toMatch(/hat|cap|glove/);
    const done = await asks.ask('PUT', '/api/tables/1/rows?key=No', newer);
    expect([done.status, done.body['added']]).toEqual([200, 1 as never]);
    const { body: log } = await lind.ask('GET', '/api/tables/1/changes?brief=true');
    expect((log['changes'] as { who: string }[])[0].who).toBe('M. Lind, by Nightly');
    expect((await asks.ask('POST', '/api/tables/1/search', { question: { threaded: ['Item'] } })).status).toBe(403);
  });

  it('works no more once it is ended, its person is disabled, or it never was', async () => {
    const kessel = await comes(running, lind, { name: 'T. Kessel', roles: [{ table: 1, role: 'keeps' }] });
    const [first, second] = [await made(kessel, 'reads'), await made(kessel, 'reads')];
    const statusOf = async (token: string): Promise<unknown> => {
      const { status, body, headers } = await program(token).ask('GET', '/api/tables/1');
      return [status, body['title'], headers.get('www-authenticate')];
    };
    const dead = [401, 'This token does not work', 'Bearer'];
    expect(await statusOf(first.token)).toEqual([200, undefined, null]);
    expect((await varga.ask('DELETE', `/api/tokens/${first.id}`)).status).toBe(404);
    expect((await kessel.ask('DELETE', `/api/tokens/${first.id}`)).status).toBe(204);
    expect(await statusOf(first.token)).toEqual(dead);
    expect(await statusOf(second.token)).toEqual([200, undefined, null]);
    const { body } = await lind.ask('GET', '/api/people');
    const { id } = (body['people'] as { id: number; name: string }[]).find(({ name }) => name === 'T. Kessel')!;
    await lind.ask('PATCH', `/api/people/${id}`, { disabled: true });
    expect(await statusOf(second.token)).toEqual(dead);
    for (const never of [
      'needle-AAAAAAAAAAAAAAAAAAAAAA',
      '',
      'x y',
      'é'.repeat(3).normalize('NFD').replace(/[^e]/g, 'e'),
    ])
      expect(await statusOf(never))
        .withContext(never)
        .toEqual(dead);
    // What anyone may ask is refused, too, with a token that does not work: so its end is noticed.
    expect((await program(first.token).ask('GET', '/api/me')).status).toBe(401);
  });

  it('has its stream of events ended with it', async () => {
    const { id, token } = await made(varga, 'reads', [1]);
    const stream = await fetch(`${running.server.address}/api/tables/1/events`, {
      headers: { authorization: `Bearer ${token}` },
    });
    expect(stream.status).toBe(200);
    const ended = (async () => {
      const reader = stream.body!.getReader();
      // The connection is cut, which is an error to who reads.
      while (!(await reader.read().catch(() => ({ done: true }))).done);
      return performance.now();
    })();
    const began = performance.now();
    expect((await varga.ask('DELETE', `/api/tokens/${id}`)).status).toBe(204);
    expect((await ended) - began).toBeLessThan(20_000);
  });

  it('is listed to who looks after people, who ends anybody’s', async () => {
    const { id } = await made(varga, 'reads', [1]);
    const tokensOf = async (who: Asker): Promise<{ id: number; person: string }[]> =>
      ((await who.ask('GET', '/api/people')).body['tokens'] ?? []) as { id: number; person: string }[];
    expect((await tokensOf(lind)).find((one) => one.id === id)?.person).toBe('A. Varga');
    expect(await tokensOf(varga)).toEqual([]);
    expect((await lind.ask('DELETE', `/api/tokens/${id}`)).status).toBe(204);
    expect((await lind.ask('DELETE', `/api/tokens/${id}`)).status).toBe(404);
  });

  it('stands before a cookie, and is listed without its secret', async () => {
    const { token } = await made(varga, 'reads', [1]);
    const both = await varga.ask('GET', '/api/me', undefined, { authorization: `Bearer ${token}` });
    expect(both.status).toBe(200);
    expect((await varga.ask('POST', '/api/tokens', { nothing: 1 }, { authorization: `Bearer ${token}` })).status).toBe(
      403,
    );
    // What came as a token, and is known as one, is none as the cookie of a sign-in.
    for (const word of ['Bearer', 'token']) {
      const cookie = `usual-needle=${word} ${token}`;
      expect((await running.ask('GET', '/api/tables/1', undefined, { cookie })).status).toBe(401);
    }
    // Of another scheme it is for a proxy in front of the server.
    expect((await varga.ask('GET', '/api/tables/1', undefined, { authorization: 'Basic eDp5' })).status).toBe(200);
    const { body } = await varga.ask('GET', '/api/tokens');
    expect(JSON.stringify(body)).not.toContain(token.slice(7));
    const { body: told } = await lind.ask('GET', '/api/people');
    const changes = (told['changes'] as { what: string }[]).map(({ what }) => what);
    expect(changes).toContain('made a token, Nightly, that reads 1 tables');
    expect(JSON.stringify(told)).not.toContain(token.slice(7));
  });
});

describe('Tokens where nobody signs in', () => {
  it('are not made, and one that does not work opens nothing', async () => {
    const running = await Running.start(false);
    try {
      expect((await running.ask('POST', '/api/tokens', { name: 'n', kind: 'reads', days: 1 })).status).toBe(422);
      expect((await running.ask('GET', '/api/tables', undefined, { authorization: 'Bearer needle-x' })).status).toBe(
        401,
      );
      expect((await running.ask('GET', '/api/tables')).status).toBe(200);
    } finally {
      await running.end();
    }
  });
});

describe('The rules of access', () => {
  it('say what somebody new starts as, and for how long a sign-in lasts', async () => {
    const running = await Running.start(false);
    try {
      const lind = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
      for (const name of ['Found', 'Lost']) await lind.ask('POST', `/api/tables?name=${name}`, 'A\n1\n');
      const rolesOf = async (name: string): Promise<unknown> => {
        const people = (await lind.ask('GET', '/api/people')).body['people'] as { name: string; roles: object[] }[];
        return people.find((one) => one.name === name)?.roles;
      };
      await comes(running, lind, { name: 'O. Brandt' });
      expect(await rolesOf('O. Brandt')).toEqual([]);
      expect((await lind.ask('PATCH', '/api/people', { newcomers: 'keep', signInDays: 1 })).status).toBe(204);
      for (const wrong of [{ newcomers: 'rule' }, { signInDays: 31 }, {}])
        expect(
          (
            await lind.ask('PATCH', '/api/people', {
              newcomers: 'keep',
              signInDays: 1,
              ...wrong,
              ...(Object.keys(wrong).length ? {} : { more: 1 }),
            })
          ).status,
        ).toBe(400);
      const { body } = await lind.ask('POST', '/api/people', { name: 'T. Kessel' });
      const come = await running.ask('POST', `/api/invitations/${(body['path'] as string).split('/').at(-1)}`, {
        password: 'a long enough password',
      });
      expect(come.headers.get('set-cookie')).toContain('; Max-Age=86400');
      expect(await rolesOf('T. Kessel')).toEqual([
        { table: 1, role: 'keeps' },
        { table: 2, role: 'keeps' },
      ]);
    } finally {
      await running.end();
    }
  });
});

describe('The made-up people of the demo', () => {
  it('see it as their roles have it, by names of this machine, until somebody is made', async () => {
    const running = await Running.start(true);
    try {
      const port = new URL(running.server.address).port;
      const as = async (name: string, method = 'GET', path = '/api/tables', body?: string): Promise<[number, string]> =>
        running.raw(
          method,
          path,
          { host: `${name}:${port}`, ...(body && { 'content-type': 'application/json' }) },
          body,
        );
      const names = async (name: string): Promise<unknown> => {
        const { tables, shared } = JSON.parse((await as(name))[1]) as Record<string, { name: string }[]>;
        return [tables.map((one) => one.name), shared.map((one) => one.name)];
      };
      expect(await names('varga.localhost')).toEqual([['Found items', 'Stops', 'Claims'], []]);
      expect(await names('kessel.localhost')).toEqual([['Found items'], []]);
      expect(await names('brandt.localhost')).toEqual([[], ['Front desk look-up']]);
      expect((await as('varga.localhost', 'GET', '/api/people'))[0]).toBe(403);
      expect((await as('kessel.localhost', 'DELETE', '/api/tables/1'))[0]).toBe(403);
      expect((await as('brandt.localhost', 'GET', '/api/tables/1'))[0]).toBe(404);
      const asked = JSON.stringify({ name: 'n', kind: 'reads', days: 1 });
      expect((await as('varga.localhost', 'POST', '/api/tokens', asked))[0]).toBe(422);
      for (const other of ['lind.localhost', 'varga.localhost.evil.example', 'x.varga.localhost'])
        expect((await as(other))[0])
          .withContext(other)
          .toBe(421);
      await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
      for (const name of ['varga', 'kessel', 'brandt']) expect((await as(`${name}.localhost`))[0]).toBe(401);
      expect((await running.ask('GET', '/api/me')).body['madeUp']).toEqual([] as never);
    } finally {
      await running.end();
    }
  });
});
