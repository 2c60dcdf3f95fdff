import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { COMMAND, serve, type Serving } from './serving.js';

describe('usual-needle bring-in', () => {
  const folder = mkdtempSync(join(tmpdir(), 'usual-needle-bring-in-'));
  let server: Serving;
  let address: string;
  beforeAll(async () => {
    server = await serve(join(folder, 'data'));
    ({ address } = server);
    const headers = { 'content-type': 'text/csv' };
    await fetch(`${address}/api/tables?name=Kept`, { method: 'POST', headers, body: 'A\n1\n' });
  }, 60_000);
  afterAll(async () => {
    await server.end();
    rmSync(folder, { recursive: true, force: true });
  });

  const file = (name: string, content: string | Uint8Array): string => {
    const path = join(folder, name);
    writeFileSync(path, content);
    return path;
  };
  const run = (args: readonly string[], input?: string): { code: number | null; out: string; err: string } => {
    const { status, stdout, stderr } = spawnSync(process.execPath, [COMMAND, 'bring-in', ...args], {
      encoding: 'utf8',
      input,
    });
    return { code: status, out: stdout.trim(), err: stderr.trim() };
  };

  it('makes a table of a file, named by it, and tells where it is', () => {
    const { code, out } = run([file('lost-things.csv', 'No,Thing\n1,hat\n2,key\n'), '--server', address]);
    expect([code, out]).toEqual([
      0,
      jasmine.stringMatching(/^Lost things: 2 rows, 2 columns; http:\S+\/table\/\d+$/),
    ] as never);
  });

  it('refreshes one by its key, says what it would do and what it did; and the same again changes nothing', () => {
    run([
      file('n.ndjson', '{"No":1,"Thing":"hat"}\n{"No":2,"Thing":"key"}\n'),
      '--server',
      address,
      '--name',
      'Nightly',
    ]);
    const newer = file('newer.csv.gz', gzipSync('No,Thing\n1,red hat\n3,glove\n'));
    const refresh = [newer, '--server', address, '--refresh', 'Nightly', '--key', 'No', '--gone', 'remove'];
    expect(run([...refresh, '--preview']).out).toBe(
      'Nightly, would be: 1 added, 1 changed, 1 gone and removed, 0 unchanged',
    );
    expect(run(refresh).out).toBe('Nightly, change 2: 1 added, 1 changed, 1 gone and removed, 0 unchanged');
    expect(run(refresh).out).toBe('Nightly, change 2: 0 added, 0 changed, 0 gone and removed, 2 unchanged');
  });

  it('reads standard input', () => {
    const { code, out } = run(['-', '--server', address, '--name', 'Piped'], 'A\n1\n');
    expect([code, out.split(':')[0]]).toEqual([0, 'Piped']);
  });

  const wrong: [what: string, args: () => string[], says: RegExp][] = [
    ['a file that is not there', () => ['/nowhere.csv', '--server', address], /cannot be read/],
    ['a file that does not fit', () => [file('bad.csv', 'A,B\n1\n'), '--server', address], /Line 2 has 1 cell/],
    [
      'a table that is not there',
      () => [file('a.csv', 'A\n1\n'), '--server', address, '--refresh', 'Nope'],
      /no table “Nope”/,
    ],
    [
      'a key that is no column',
      () => [file('a.csv', 'A\n1\n'), '--server', address, '--refresh', 'Kept', '--key', 'Z'],
      /no column “Z”/,
    ],
    ['a server that does not answer', () => [file('a.csv', 'A\n1\n'), '--server', '127.0.0.1:9'], /does not answer/],
    ['no address', () => [file('a.csv', 'A\n1\n'), '--server', 'http://'], /no address/],
    ['no server', () => [file('a.csv', 'A\n1\n')], /--server/],
  ];
  for (const [what, args, says] of wrong)
    it(`says so, and ends with 2, for ${what}`, () => {
      const { code, err } = run(args());
      expect([code, err]).toEqual([2, jasmine.stringMatching(says)] as never);
      expect(err.split('\n').length).toBe(1);
    });
});

describe('usual-needle bring-in, by a token', () => {
  const folder = mkdtempSync(join(tmpdir(), 'usual-needle-token-'));
  let server: Serving;
  let cookie = '';
  beforeAll(async () => {
    server = await serve(join(folder, 'data'));
    const post = async (path: string, body: object | string): Promise<Response> =>
      fetch(server.address + path, {
        method: 'POST',
        headers: { 'content-type': typeof body === 'string' ? 'text/csv' : 'application/json', cookie },
        body: typeof body === 'string' ? body : JSON.stringify(body),
      });
    await post('/api/tables?name=Found', 'No,Thing\n1,hat\n');
    const { path } = (await (await post('/api/people', { name: 'M. Lind', everything: true })).json()) as {
      path: string;
    };
    const come = await post(`/api/invitations/${path.split('/').at(-1)}`, { password: 'a long enough password' });
    cookie = come.headers.get('set-cookie')!.split(';')[0];
    const asked = { name: 'Nightly', kind: 'refreshes', tables: [1], days: 1 };
    ({ token } = (await (await post('/api/tokens', asked)).json()) as { token: string });
    writeFileSync(join(folder, 'newer.csv'), 'No,Thing\n1,hat\n2,cap\n');
  }, 60_000);
  let token = '';
  afterAll(async () => {
    await server.end();
    rmSync(folder, { recursive: true, force: true });
  });

  const run = (args: readonly string[], env: Record<string, string> = {}): [number | null, string] => {
    const { status, stdout, stderr } = spawnSync(
      process.execPath,
      [COMMAND, 'bring-in', join(folder, 'newer.csv'), '--server', server.address, ...args],
      { encoding: 'utf8', env: { ...process.env, ...env } },
    );
    return [status, (status === 0 ? stdout : stderr).trim()];
  };
  const refresh = ['--refresh', 'Found', '--key', 'No'];

  it('asks for one where it has none, and says of one that does not work that it does not', () => {
    expect(run(refresh)).toEqual([2, jasmine.stringMatching(/^Sign in first: .* --token/)] as never);
    expect(run([...refresh, '--token', 'needle-x'])).toEqual([
      2,
      jasmine.stringMatching(/^This token does not work/),
    ] as never);
    expect(run([...refresh, '--token', 'a b'])).toEqual([2, 'The token is not one.']);
  });

  it('refreshes, by --token or by the environment, and does nothing else', () => {
    expect(run([...refresh, '--preview', '--token', token])[1]).toContain('1 added');
    expect(run(refresh, { USUAL_NEEDLE_TOKEN: token })[1]).toContain('change 2: 1 added');
    expect(run(['--name', 'New'], { USUAL_NEEDLE_TOKEN: token })).toEqual([
      2,
      jasmine.stringMatching(/^This token may not do that/),
    ] as never);
  });
});
