import { Asker, comes, PASSWORD } from './people.js';
import { Running } from './running.js';

describe('Form tokens', () => {
  let running: Running;
  let lind: Asker;
  beforeAll(async () => {
    running = await Running.start(false);
    lind = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    await lind.ask('POST', '/api/tables?name=T', 'A\n1\n');
  });
  afterAll(() => running.end());

  /** As a page of ours sends it. */
  const sends = async (path: string, body: object, cookies: readonly string[], said?: string): Promise<number> => {
    const headers = {
      origin: running.server.address,
      cookie: cookies.join('; '),
      ...(said && { 'x-usual-needle-form': said }),
    };
    return (await running.ask('POST', path, body, headers)).status;
  };
  const page = async (): Promise<string> => {
    const { headers } = await running.ask('GET', '/sign-in');
    expect(headers.get('set-cookie')).toMatch(/^usual-needle-form=[\w-]{22}; Path=\/; SameSite=Strict$/);
    return headers.get('set-cookie')!.split(';')[0];
  };

  it('are given to a page that has none, and to no other', async () => {
    const cookie = await page();
    expect((await running.ask('GET', '/', undefined, { cookie })).headers.get('set-cookie')).toBeNull();
    expect((await running.ask('GET', '/api/me')).headers.get('set-cookie')).toBeNull();
  });

  it('are asked of pages where somebody signs in, or is signed in', async () => {
    const form = await page();
    const token = form.split('=')[1];
    const signIn = { name: 'M. Lind', password: PASSWORD };
    const search = { question: { threaded: ['A'] } };
    for (const [path, body, cookies] of [
      ['/api/sign-in', signIn, []],
      ['/api/tables/1/search', search, [lind.cookie!]],
    ] as const) {
      const other = 'A'.repeat(22);
      expect(await sends(path, body, [...cookies, form], token))
        .withContext(path)
        .toBeLessThan(300);
      for (const [has, said] of [
        [[...cookies], undefined],
        [[...cookies], token],
        [[...cookies, form], undefined],
        [[...cookies, form], other],
        [[...cookies, form], ''],
        [[...cookies, 'usual-needle-form='], ''],
      ] as const)
        expect(await sends(path, body, has, said))
          .withContext(`${path} ${has.join()} ${said}`)
          .toBe(403);
    }
  });

  it('are not asked of programs, which send no Origin, nor with a token of their own', async () => {
    expect((await lind.ask('POST', '/api/tables/1/search', { question: { threaded: ['A'] } })).status).toBe(200);
    const { body } = await lind.ask('POST', '/api/tokens', { name: 'n', kind: 'reads', days: 1 });
    const headers = { origin: running.server.address, authorization: `Bearer ${body['token'] as string}` };
    expect((await running.ask('POST', '/api/tables/1/search', { question: { threaded: ['A'] } }, headers)).status).toBe(
      200,
    );
  });
});
