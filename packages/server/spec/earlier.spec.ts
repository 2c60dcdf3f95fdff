import { Running } from './running.js';

type Named = readonly { readonly name: string }[];

describe('a table as it was then', () => {
  let running: Running;
  let id: number;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.stop());
  const ask = (...asked: Parameters<Running['ask']>): ReturnType<Running['ask']> => running.ask(...asked);
  const changed = async (edit: object): Promise<void> => {
    const { status } = await ask('POST', `/api/tables/${id}/changes`, { kind: 'edited', ...edit });
    expect(status).toBe(200);
  };
  const opened = async (at: number): Promise<Record<string, never>> => {
    const { status, body } = await ask('POST', `/api/tables/${id}/earlier`, { at });
    expect(status).toBe(201);
    return body;
  };
  /** Cells of all rows that a question finds; it waits until the table is whole. */
  const found = async (table: number, text: string, columns = ['Thing', 'Place']): Promise<string[]> => {
    const question = { threaded: ['Thing'], strands: [{ verb: 'find', text }] };
    for (;;) {
      const { status, body } = await ask('POST', `/api/tables/${table}/search`, { question, columns, limit: 100 });
      if (status === 503) continue;
      expect(status).toBe(200);
      return (body['rows'] as { cells: string[] }[]).map(({ cells }) => cells.join('|'));
    }
  };

  beforeEach(async () => {
    const made = await ask(
      'POST',
      '/api/tables?name=Things',
      'Thing,Place\nhat,desk\nglove,hall\nring,desk\nkey,hall\n',
    );
    id = made.body['id'];
    await changed({ key: 'change-a-1', columns: ['Thing'], changed: [{ id: 1, was: ['hat'], now: ['felt hat'] }] });
    await changed({ key: 'change-b-1', kind: 'removed', columns: [], removed: [{ id: 3, seen: 1 }] });
    await changed({ key: 'change-c-1', kind: 'added', columns: ['Thing'], added: [['umbrella']] });
    await ask('PATCH', `/api/tables/${id}/columns`, { name: 'Place', rename: 'Where' }, { 'if-match': '*' });
  });

  it('is searched and read as it was after each change, and stays so', async () => {
    const then = [await opened(1), await opened(2), await opened(3), await opened(4)];
    expect(await Promise.all(then.map((one) => found(one['id'], '')))).toEqual([
      ['hat|desk', 'glove|hall', 'ring|desk', 'key|hall'],
      ['felt hat|desk', 'glove|hall', 'ring|desk', 'key|hall'],
      ['felt hat|desk', 'glove|hall', 'key|hall'],
      ['felt hat|desk', 'glove|hall', 'key|hall', 'umbrella|'],
    ]);
    const [first] = then;
    expect([first['now'], first['change'], (first['columns'] as Named).map(({ name }) => name)]).toEqual([
      id as never,
      1 as never,
      ['Thing', 'Place'],
    ]);
    await changed({ key: 'change-d-1', columns: ['Thing'], changed: [{ id: 2, was: ['glove'], now: ['mitten'] }] });
    expect(await found(first['id'], 'glove')).toEqual(['glove|hall']);
    expect((await opened(1))['id']).toBe(first['id']);
    expect(await found(id, '', ['Thing', 'Where'])).toEqual(['felt hat|desk', 'mitten|hall', 'key|hall', 'umbrella|']);
  });

  it('is for reading only, and is no table of the shelf', async () => {
    const { id: then } = await opened(1);
    const tables = (await ask('GET', '/api/tables')).body['tables'] as { id: number }[];
    expect(tables.some((one) => one.id === then)).toBe(false);
    const edit = {
      key: 'change-x-1',
      kind: 'edited',
      columns: ['Thing'],
      changed: [{ id: 1, was: ['hat'], now: ['cap'] }],
    };
    const refused = [
      await ask('POST', `/api/tables/${then}/changes`, edit),
      await ask('DELETE', `/api/tables/${then}`),
      await ask('GET', `/api/tables/${then}`),
      await ask('GET', `/api/tables/${then}/changes`),
    ];
    expect(refused.map(({ status }) => status)).toEqual([404, 404, 404, 404]);
  });

  it('is not there for a change that never was, and goes with its table', async () => {
    for (const at of [99, 2_147_483_647])
      expect((await ask('POST', `/api/tables/${id}/earlier`, { at })).status).toBe(404);
    for (const at of [0, -1, 1.5, '1', null, 1e12])
      expect((await ask('POST', `/api/tables/${id}/earlier`, { at })).status).toBe(400);
    const { id: then } = await opened(1);
    await found(then, '');
    await ask('DELETE', `/api/tables/${id}`);
    const gone = await ask('POST', `/api/tables/${then}/search`, { question: { threaded: ['Thing'] } });
    expect([gone.status, gone.body['title'] as string]).toEqual([404, 'There is no such table']);
    expect(gone.body['detail'] as string).toContain('has been put away');
    expect((await ask('POST', `/api/tables/${id}/earlier`, { at: 1 })).status).toBe(404);
  });

  it('gives way to those that are asked for later', async () => {
    const [first, second] = [await opened(1), await opened(2)];
    await Promise.all([found(first['id'], ''), found(second['id'], '')]);
    await opened(3);
    await opened(4);
    await found(first['id'], 'hat');
    await opened(5);
    expect(await found(first['id'], 'hat')).toEqual(['hat|desk']);
    expect(
      (await ask('POST', `/api/tables/${second['id']}/search`, { question: { threaded: ['Thing'] } })).status,
    ).toBe(404);
  });

  it('is lost with the thread that holds it, and opened again', async () => {
    const { id: then } = await opened(2);
    await found(then, '');
    await running.server.threads.endThread(then);
    while ((await ask('GET', '/api/health')).body['status'] !== ('ready' as never))
      await new Promise((done) => setTimeout(done, 50));
    expect((await ask('POST', `/api/tables/${then}/search`, { question: { threaded: ['Thing'] } })).status).toBe(404);
    expect(await found((await opened(2))['id'], 'hat')).toEqual(['felt hat|desk']);
  });

  it('is the same however much is changed while it is read', async () => {
    const csv = `Thing,Place\n${Array.from({ length: 12_000 }, (_, i) => `thing ${i},place ${i % 7}`).join('\n')}\n`;
    const big = (await ask('POST', '/api/tables?name=Big', csv)).body['id'] as number;
    let going = true;
    const keeper = (async () => {
      for (let i = 0; going; i++) {
        const rows = [(i * 37) % 12_000, (i * 53 + 11_000) % 12_000].map((row) => row + 1);
        const edit =
          i % 3 === 0
            ? { kind: 'removed', columns: [], removed: [{ id: rows[0], seen: 2_000_000_000 }] }
            : { kind: 'added', columns: ['Thing'], added: [[`new ${i}`]] };
        await ask('POST', `/api/tables/${big}/changes`, { key: `other-k-${i}`, ...edit });
        const was = `thing ${rows[1] - 1}`;
        const change = { columns: ['Thing'], changed: [{ id: rows[1], was: [was], now: [`other ${i}`] }] };
        await ask('POST', `/api/tables/${big}/changes`, { key: `other-e-${i}`, kind: 'edited', ...change });
      }
    })();
    for (let i = 0; i < 3; i++) {
      const copy = (await ask('GET', `/api/tables/${big}/copy?at=1`)).body['text'] as string;
      expect(copy.replaceAll('\r\n', '\n') === csv).toBe(true);
    }
    going = false;
    await keeper;
  });
});
