import { Running } from './running.js';

const BOX = { format: 'usual-needle box', version: 1, name: 'Lost hats', threaded: ['Description'] };

describe('keeping boxes', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(true)));
  afterAll(() => running.end());

  const keep = async (name: string): Promise<{ path: string; etag: string }> => {
    const { status, headers } = await running.ask('POST', '/api/tables/1/boxes', { box: { ...BOX, name } });
    expect(status).toBe(201);
    return { path: headers.get('location')!, etag: headers.get('etag')! };
  };
  const names = async (): Promise<string[]> => {
    const { body } = await running.ask('GET', '/api/tables');
    return (body['boxes'] as { name: string }[]).map(({ name }) => name);
  };

  it('keeps a new box, which the shelf then lists', async () => {
    const { path } = await keep('Hats, new');
    const { body } = await running.ask('GET', path);
    expect(body['box']).toEqual({ ...BOX, name: 'Hats, new' } as never);
    expect(await names()).toContain('Hats, new');
  });

  it('changes a box in the version that the change was made on, and no other', async () => {
    const { path, etag } = await keep('Hats, changed');
    const box = { ...BOX, name: 'Hats and caps' };
    const changed = await running.ask('PUT', path, { box }, { 'if-match': etag });
    expect([changed.status, changed.body['name']]).toEqual([200, 'Hats and caps'] as never[]);
    const late = await running.ask('PUT', path, { box: { ...BOX, name: 'Late' } }, { 'if-match': etag });
    expect([late.status, late.type]).toEqual([412, 'application/problem+json']);
    const { body } = await running.ask('GET', path);
    expect(body['name']).toBe('Hats and caps' as never);
  });

  it('asks for the version', async () => {
    const { path } = await keep('Hats, unasked');
    expect((await running.ask('PUT', path, { box: BOX })).status).toBe(428);
    expect((await running.ask('DELETE', path)).status).toBe(428);
  });

  it('deletes a box, and brings it back at the same address', async () => {
    const { path, etag } = await keep('Hats, deleted');
    expect((await running.ask('DELETE', path, undefined, { 'if-match': etag })).status).toBe(204);
    expect((await running.ask('GET', path)).status).toBe(404);
    expect(await names()).not.toContain('Hats, deleted');
    expect((await running.ask('PUT', path, { box: BOX }, { 'if-match': etag })).status).toBe(404);
    const back = await running.ask('POST', `${path}/restore`);
    expect([back.status, back.body['name']]).toEqual([200, 'Hats, deleted'] as never[]);
    expect(await names()).toContain('Hats, deleted');
    expect((await running.ask('POST', `${path}/restore`)).status).toBe(404);
  });

  it('refuses what is no box', async () => {
    const wrong: object[] = [
      {},
      { box: { ...BOX, name: '' } },
      { box: { ...BOX, colour: 'red' } },
      { box: { format: 'other' } },
    ];
    for (const body of wrong) expect((await running.ask('POST', '/api/tables/1/boxes', body)).status).toBe(400);
    expect((await running.ask('POST', '/api/tables/999/boxes', { box: BOX })).status).toBe(404);
  });

  it('changes how a column is shown, which is searched as it is shown', async () => {
    const { headers } = await running.ask('GET', '/api/tables/1');
    const version = { 'if-match': headers.get('etag')! };
    const found = async (): Promise<unknown> => (await running.find(1, 'november', ['Found on'])).body['matched'];
    expect(await found()).toBe(0);
    const change = { name: 'Found on', shown: { date: 'd MMMM yyyy' } };
    expect((await running.ask('PATCH', '/api/tables/1/columns', change, version)).status).toBe(200);
    expect(await found()).toBeGreaterThan(0);
    expect((await running.ask('PATCH', '/api/tables/1/columns', change, version)).status).toBe(412);
    const next = { 'if-match': (await running.ask('GET', '/api/tables/1')).headers.get('etag')! };
    const wrong = { name: 'Found on', shown: { number: { decimals: 2, grouping: true } } };
    expect((await running.ask('PATCH', '/api/tables/1/columns', wrong, next)).status).toBe(422);
    expect((await running.ask('PATCH', '/api/tables/1/columns', { name: 'Nowhere' }, next)).status).toBe(404);
  });

  it('puts a choice column in an order of its own', async () => {
    const { headers } = await running.ask('GET', '/api/tables/1');
    const order = ['Returned', 'Held'];
    const patched = await running.ask(
      'PATCH',
      '/api/tables/1/columns',
      { name: 'Status', order },
      { 'if-match': headers.get('etag')! },
    );
    expect(patched.status).toBe(200);
    const question = { threaded: [], sort: [{ column: 'Status', direction: 'up' }] };
    const { body } = await running.ask('POST', '/api/tables/1/search', { question, columns: ['Status'], limit: 1 });
    expect((body['rows'] as { cells: string[] }[])[0].cells).toEqual(['Returned']);
  });
});
