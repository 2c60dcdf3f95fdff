import { Asker, comes } from './people.js';
import { Running } from './running.js';

describe('A box in the address bar', () => {
  let running: Running;
  let slug: string;
  let shared: (share: object) => Promise<unknown>;

  beforeAll(async () => {
    running = await Running.start(false);
    const lind = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    await lind.ask(
      'POST',
      '/api/tables?name=Found',
      'Item,Status,Worth\nred hat,Held,5\nred cap,Sold,9\nred hat,Held,7\n',
    );
    const box = {
      ...{
        format: 'usual-needle box',
        version: 1,
        name: 'Front <desk> & "more" than that',
        threaded: ['Item', 'Worth'],
      },
      pickers: [{ column: 'Status', values: ['Held'] }],
    };
    await lind.ask('POST', '/api/tables/1/boxes', { box });
    const usual = {
      everyone: false,
      people: [],
      may: [],
      columns: ['Item', 'Status'],
      searched: [],
      editable: [],
      locked: [],
    };
    shared = (share) => lind.ask('PUT', '/api/boxes/1/share', { ...usual, ...share });
    await shared({});
    slug = ((await lind.ask('POST', '/api/boxes/1/share/link')).body['path'] as string).split('/').at(-1)!;
  });
  afterAll(() => running.end());

  const suggested = async (text: string): Promise<unknown> => {
    const reply = await running.ask('GET', `/api/shared/${slug}/suggestions?q=${encodeURIComponent(text)}`);
    expect([reply.status, reply.type]).toEqual([200, 'application/x-suggestions+json']);
    return reply.body;
  };

  it('is described to browsers', async () => {
    const { status, type, body } = await running.ask('GET', `/api/shared/${slug}/opensearch.xml`);
    expect([status, type]).toEqual([200, 'application/opensearchdescription+xml']);
    const text = body['text'] as string;
    expect(text).toContain('<ShortName>Front &lt;desk&gt; &amp; &quot;</ShortName>');
    expect(text).toContain(`template="${running.server.address}/b/${slug}?q={searchTerms}"`);
    expect(text).toContain(`template="${running.server.address}/api/shared/${slug}/suggestions?q={searchTerms}"`);
    expect((await running.ask('GET', '/api/shared/desk-AAAAAAAAAAAAAAAAAAAAAA/opensearch.xml')).status).toBe(404);
  });

  it('suggests values that readers may see, those that most rows have first', async () => {
    expect(await suggested('red')).toEqual(['red', ['red hat', 'red cap'], ['2 rows', '1 row']]);
    for (const nothing of ['', '  ', 'zzz']) expect(await suggested(nothing)).toEqual([nothing, [], []]);
  });

  it('suggests nothing of a column that they do not see, nor of rows outside of a locked picker', async () => {
    expect(await suggested('9')).toEqual(['9', [], []]);
    await shared({ searched: ['Worth'] });
    expect(await suggested('9')).toEqual(['9', [], []]);
    await shared({ locked: ['Status'] });
    expect(await suggested('red')).toEqual(['red', ['red hat'], ['2 rows']]);
    await shared({});
  });
});
