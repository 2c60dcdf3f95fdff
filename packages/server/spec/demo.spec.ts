import type { ShelfContent, StoredBox } from '@usual-needle/contract';
import { Running } from './running.js';

describe('the demo', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(true)));
  afterAll(() => running.end());
  const shelf = async (): Promise<ShelfContent> =>
    (await running.ask('GET', '/api/tables')).body as unknown as ShelfContent;
  const names = async (): Promise<string[]> => (await shelf()).tables.map(({ name }) => name);

  it('is put away at once and brought back, with what was done to it; twice asked is once done', async () => {
    const { id } = (await running.ask('POST', '/api/tables?name=Own', 'A,B\n1,x\n')).body as unknown as { id: number };
    expect((await shelf()).demo).toBe('there');
    const { boxes } = await shelf();
    await running.ask('PATCH', '/api/tables/2', { name: 'All stops', description: '' }, { 'if-match': '*' });
    await Promise.all([running.ask('DELETE', '/api/demo'), running.ask('DELETE', '/api/demo')]);
    expect([(await shelf()).demo as string, ...(await names())]).toEqual(['away', 'Own']);
    expect((await running.find(1, 'umbr', ['Description'])).status).toBe(404);
    const both = await Promise.all([running.ask('POST', '/api/demo', {}), running.ask('POST', '/api/demo', {})]);
    expect(both.map(({ status }) => status)).toEqual([204, 204]);
    expect(await names()).toEqual(['Found items', 'All stops', 'Claims', 'Own']);
    expect((await shelf()).boxes.map(({ name }) => name)).toEqual(boxes.map(({ name }) => name));
    expect((await running.find(1, 'umbr', ['Description'])).body['matched']).toBe(453 as never);
    await running.ask('DELETE', `/api/tables/${id}`);
  });

  it('is not put away while a table of one’s own borrows from it, which is said', async () => {
    const { id } = (await running.ask('POST', '/api/tables?name=Visits', 'At\nUpper Weir\n')).body as unknown as {
      id: number;
    };
    const borrow = { table: 2, key: 'At', matches: 'Name', columns: [{ column: 'Town' }] };
    expect((await running.ask('POST', `/api/tables/${id}/columns`, { borrow }, { 'if-match': '*' })).status).toBe(200);
    const refused = await running.ask('DELETE', '/api/demo');
    const stops = (await shelf()).tables.find((table) => table.id === 2)!.name;
    expect([refused.status, refused.body['title'] as string]).toEqual([409, `Visits borrows from ${stops}`]);
    expect((await shelf()).demo).toBe('there');
    await running.ask('DELETE', `/api/tables/${id}`);
    expect((await running.ask('DELETE', '/api/demo')).status).toBe(204);
    await running.ask('POST', '/api/demo', {});
  });

  it('is brought in anew where it is not kept any more, and not offered where the server is to be without it', async () => {
    const other = await Running.start(false);
    const kept = async (): Promise<ShelfContent> =>
      (await other.ask('GET', '/api/tables')).body as unknown as ShelfContent;
    expect((await kept()).demo).toBeNull();
    expect((await other.ask('POST', '/api/demo', {})).status).toBe(204);
    expect((await kept()).demo).toBe('there');
    const box = (await other.ask('GET', '/api/boxes/1')).body as unknown as StoredBox;
    expect(box.name).toBe('Front desk look-up');
    await other.end();
  });
});
