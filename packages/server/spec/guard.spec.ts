import { WebSocket } from 'ws';
import { Running } from './running.js';

describe('C1: pages of other sites', () => {
  let running: Running;
  let host: string;
  beforeAll(async () => {
    running = await Running.start(false, undefined, { names: ['needle.example'] });
    host = new URL(running.server.address).host;
    await running.ask('POST', '/api/tables?name=T', 'A\n1\n');
  });
  afterAll(() => running.end());

  const port = (): string => host.split(':')[1];
  const question = JSON.stringify({ question: { threaded: ['A'] } });
  const json = { 'content-type': 'application/json' };

  const routes: [method: string, path: string, body?: string][] = [
    ['GET', '/api/tables'],
    ['GET', '/api/tables/1'],
    ['GET', '/api/tables/1/rows'],
    ['GET', '/api/tables/1/changes'],
    ['GET', '/api/health'],
    ['POST', '/api/tables?name=X', 'A\n1\n'],
    ['POST', '/api/tables/1/search', question],
    ['POST', '/api/tables/1/boxes', '{"box":{"format":"usual-needle box","version":1,"name":"X"}}'],
    ['DELETE', '/api/tables/1'],
    ['POST', '/api/tables/1/restore'],
    ['PATCH', '/api/tables/1/columns', '{"name":"A","rename":"B"}'],
    ['DELETE', '/api/boxes/1'],
  ];
  for (const [method, path, body] of routes) {
    it(`are refused ${method} ${path}`, async () => {
      const type = path.includes('name=') ? { 'content-type': 'text/csv' } : json;
      const foreign = { host, origin: 'http://elsewhere.example', ...(body && type) };
      expect((await running.raw(method, path, foreign, body))[0])
        .withContext('a foreign origin')
        .toBe(403);
      const none = { host, origin: 'null', ...(body && type) };
      expect((await running.raw(method, path, none, body))[0])
        .withContext('an origin of none')
        .toBe(403);
      const rebound = { host: `evil.example:${port()}`, ...(body && type) };
      expect((await running.raw(method, path, rebound, body))[0])
        .withContext('a name that is not ours')
        .toBe(421);
      const site = { host, 'sec-fetch-site': 'cross-site', ...(body && type) };
      expect((await running.raw(method, path, site, body))[0])
        .withContext('without an origin')
        .toBe(403);
    });
  }

  it('have changed nothing by that', async () => {
    const { body } = await running.ask('GET', '/api/tables');
    expect((body['tables'] as { name: string }[]).map(({ name }) => name)).toEqual(['T']);
    expect(body['boxes']).toEqual([] as never);
  });

  it('are told from our own, by each of its names', async () => {
    for (const name of [host, `localhost:${port()}`, `needle.example:${port()}`, `NEEDLE.example.:${port()}`]) {
      const headers = { host: name, origin: `http://${name}` };
      expect((await running.raw('GET', '/api/tables', headers))[0])
        .withContext(name)
        .toBe(200);
    }
    for (const name of ['a b', `user@localhost:${port()}`, `localhost:${port()}/x`])
      expect((await running.raw('GET', '/api/tables', { host: name }))[0])
        .withContext(name)
        .toBe(421);
  });

  it('cannot open a standing connection', async () => {
    const opens = (origin: string, name = host): Promise<string> =>
      new Promise((done) => {
        const socket = new WebSocket(`ws://${host}/api/standing`, { origin, headers: { host: name } });
        socket.on('open', () => {
          done('open');
          socket.close();
        });
        socket.on('error', ({ message }) => done(message));
      });
    expect(await opens('http://elsewhere.example')).toContain('403');
    expect(await opens('null')).toContain('403');
    expect(await opens(`http://evil.example:${port()}`, `evil.example:${port()}`)).toContain('421');
    expect(await opens(`http://${host}`)).toBe('open');
  });

  it('may link to the page, but not frame it, and it loads nothing but ours', async () => {
    const link = { host, 'sec-fetch-site': 'cross-site', origin: 'http://elsewhere.example' };
    expect((await running.raw('GET', '/box/1', link))[0]).toBe(200);
    const { headers } = await running.ask('GET', '/');
    const policy = headers.get('content-security-policy')!;
    expect(policy).toContain("frame-ancestors 'none'");
    expect(policy).toContain("default-src 'self'");
    expect(policy).not.toMatch(/script-src[^;]*unsafe/);
    expect(headers.get('x-content-type-options')).toBe('nosniff');
    expect(headers.get('x-powered-by')).toBeNull();
  });

  it('may frame shared boxes where they are named at the start, and no other page', async () => {
    const framed = await Running.start(false, undefined, { frames: ['https://intranet.example'] });
    try {
      const { headers } = await framed.ask('GET', '/b/desk-AAAAAAAAAAAAAAAAAAAAAA');
      expect(headers.get('content-security-policy')).toContain("frame-ancestors 'self' https://intranet.example");
      expect(headers.get('x-frame-options')).toBeNull();
      for (const path of ['/', '/box/1', '/b', '/b/x/y', '/sign-in', '/people', '/api/tables', '/b/..%2fpeople']) {
        const { headers } = await framed.ask('GET', path);
        const other = path.endsWith('%2fpeople');
        expect(headers.get('content-security-policy'))
          .withContext(path)
          .toContain(other ? 'https://intranet.example' : "frame-ancestors 'none'");
        expect(headers.get('x-frame-options'))
          .withContext(path)
          .toBe(other ? null : 'DENY');
      }
    } finally {
      await framed.end();
    }
  });

  it('cannot write by a form: simple types are no JSON', async () => {
    for (const type of ['text/plain', 'application/x-www-form-urlencoded', 'multipart/form-data; boundary=x', ''])
      for (const path of ['/api/tables/1/search', '/api/tables/1/boxes', '/api/boxes/1']) {
        const method = path.endsWith('1') ? 'PUT' : 'POST';
        const [status] = await running.raw(method, path, { host, 'content-type': type, 'content-length': '2' }, '{}');
        expect(status).withContext(`${type} ${path}`).toBe(415);
      }
  });
});

describe('C1: a server on every address', () => {
  it('is called by addresses and by names that are nobody else’s', async () => {
    const running = await Running.start(false, undefined, { host: '0.0.0.0', open: true });
    const { port } = new URL(running.server.address);
    const status = async (name: string): Promise<number> =>
      (await running.raw('GET', '/api/health', { host: `${name}:${port}` }))[0];
    for (const name of ['192.168.1.7', '[::1]', 'frontdesk', 'frontdesk.local', 'localhost'])
      expect(await status(name))
        .withContext(name)
        .toBe(200);
    for (const name of ['evil.example', '192.168.1.7.evil.example'])
      expect(await status(name))
        .withContext(name)
        .toBe(421);
    await running.end();
  });
});
