import { Postgres } from './postgres.js';
import { Running } from './running.js';

describe('E5: a real PostgreSQL', () => {
  let postgres: Postgres | undefined;
  let running: Running | undefined;

  beforeAll(async () => {
    postgres = await Postgres.find();
    if (!postgres) return;
    running = await Running.start(true, undefined, { databaseUrl: postgres.url });
  });
  afterAll(async () => {
    await running?.end();
    await postgres?.end();
  });

  it('holds the demo, searches it, and keeps boxes and edits as the embedded one does', async () => {
    if (!running) return pending('Debian’s postgresql is not here, and may not be installed');
    const { body } = await running.ask('GET', '/api/tables');
    expect((body['tables'] as { rows: number }[]).map(({ rows }) => rows).slice(0, 3)).toEqual([4120, 60, 600]);
    expect((await running.find(1, 'umbr wood', ['Description', 'Marks', 'Finder’s note'])).body['matched']).toBe(
      161 as never,
    );
    const box = { format: 'usual-needle box', version: 1, name: 'Kept' };
    expect((await running.ask('POST', '/api/tables/2/boxes', { box })).status).toBe(201);
    const edited = await running.server.data.changes.edit(2, 'added', [{ cells: ['new stop'] }]);
    await running.server.threads.apply(edited!);
    expect((await running.ask('GET', '/api/tables/2/changes')).body['changes'] as unknown[]).toHaveSize(2);
  });

  it('brings tables in side by side, and leaves nothing of one that fails', async () => {
    if (!running) return pending('Debian’s postgresql is not here, and may not be installed');
    const rows = (count: number): string => Array.from({ length: count }, (_, i) => `row ${i},${i}`).join('\n');
    const sent = await Promise.all([
      running.ask('POST', '/api/tables?name=One', `A,B\n${rows(20_000)}\n`),
      running.ask('POST', '/api/tables?name=Two', `A,B\n${rows(20_000)}\n`),
      running.ask('POST', '/api/tables?name=Broken', `A,B\n${rows(20_000)}\nx\n`),
    ]);
    expect(sent.map(({ status }) => status)).toEqual([201, 201, 422]);
    for (const { body } of sent.slice(0, 2))
      expect((await running.find(body['id'], 'row', ['A'])).body['matched']).toBe(20_000 as never);
    const tables = (await running.ask('GET', '/api/tables')).body['tables'] as { name: string }[];
    expect(tables.map(({ name }) => name)).not.toContain('Broken');
  });

  it('is made once by two servers that start at once on one that is empty', async () => {
    const fresh = await Postgres.find();
    if (!fresh) return pending('Debian’s postgresql is not here, and may not be installed');
    const starts = await Promise.allSettled(
      [1, 2, 3].map(() => Running.start(false, undefined, { databaseUrl: fresh.url })),
    );
    const servers = starts.flatMap((start) => (start.status === 'fulfilled' ? [start.value] : []));
    try {
      expect(starts.filter(({ status }) => status === 'rejected')).toEqual([]);
      const made = await servers[0].ask('POST', '/api/tables?name=Shared', 'A,B\nhat,1\n');
      expect(made.status).toBe(201);
      for (const one of servers)
        expect((await one.ask('GET', `/api/tables/${made.body['id']}`)).body).toEqual(
          jasmine.objectContaining({ name: 'Shared', rows: 1 }),
        );
    } finally {
      await Promise.all(servers.map((one) => one.end()));
      await fresh.end();
    }
  });

  it('refuses a box that was changed in the meantime, by another server, too', async () => {
    if (!running || !postgres) return pending('Debian’s postgresql is not here, and may not be installed');
    const other = await Running.start(false, undefined, { databaseUrl: postgres.url });
    try {
      const box = { format: 'usual-needle box', version: 1, name: 'Shared' };
      const made = await running.ask('POST', '/api/tables/1/boxes', { box });
      const path = made.headers.get('location')!;
      const change = (one: Running) => one.ask('PUT', path, { box }, { 'if-match': '"1"' });
      const both = await Promise.all([change(running), change(other)]);
      expect(both.map(({ status }) => status).sort()).toEqual([200, 412]);
    } finally {
      await other.end();
    }
  });
});
