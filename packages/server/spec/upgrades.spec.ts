import { cp, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { drizzle } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import { startEmbedded } from '../dist/data/embedded.js';
import { Running } from './running.js';

const MIGRATIONS = fileURLToPath(new URL('../migrations', import.meta.url));

interface Journal {
  entries: { tag: string }[];
}
const journalOf = async (folder: string): Promise<Journal> =>
  JSON.parse(await readFile(join(folder, 'meta/_journal.json'), 'utf8')) as Journal;

/** A data folder as a program had it that knew so many migrations, with a table, its log and a box in it. */
async function folderOf(count: number): Promise<string> {
  const data = await mkdtemp(join(tmpdir(), 'usual-needle-upgrade-'));
  const known = join(data, 'known');
  await cp(MIGRATIONS, known, { recursive: true });
  const journal = await journalOf(known);
  const cut = { ...journal, entries: journal.entries.slice(0, count) };
  await writeFile(join(known, 'meta/_journal.json'), JSON.stringify(cut));
  const embedded = await startEmbedded(data);
  const client = new pg.Client({ host: embedded.sockets, database: 'postgres', user: 'postgres' });
  await client.connect();
  await client.query('drop schema public cascade; drop schema drizzle cascade; create schema public');
  await migrate(drizzle(client), { migrationsFolder: known });
  const columns = [
    { name: 'No', kind: 'text' },
    { name: 'Thing', kind: 'text' },
  ];
  const has = async (table: string, column: string): Promise<boolean> =>
    (
      await client.query('select 1 from information_schema.columns where table_name = $1 and column_name = $2', [
        table,
        column,
      ])
    ).rows.length > 0;
  await client.query(
    `insert into tables (name, columns, row_count, completed_at) values ('Old things', $1, 3, now())`,
    [JSON.stringify(columns)],
  );
  if (await has('tables', 'last_change')) await client.query('update tables set last_change = 2, next_row = 4');
  for (const [id, cells] of [
    [1, ['1', 'hat']],
    [2, ['2', 'keys']],
    [3, ['3', 'Brückl’s “glove”']],
  ] as const)
    await client.query('insert into rows (table_id, id, version, cells) values (1, $1, $2, $3)', [
      id,
      id === 2 && (await has('tables', 'last_change')) ? 2 : 1,
      JSON.stringify(cells),
    ]);
  if (await has('changes', 'number')) {
    await client.query(`insert into changes (table_id, number, kind, rows) values (1, 1, 'brought in', 3)`);
    const edit = [{ id: 2, before: ['2', 'key'], after: ['2', 'keys'] }];
    await client.query(
      `insert into changes (table_id, number, kind, who, rows, row_changes) values (1, 2, 'edited', 'T. Kessel', 1, $1)`,
      [JSON.stringify(edit)],
    );
  }
  const box = { format: 'usual-needle box', version: 1, name: 'Old box', threaded: ['Thing'] };
  await client.query(`insert into boxes (table_id, name, definition) values (1, 'Old box', $1)`, [JSON.stringify(box)]);
  await client.end();
  await embedded.close();
  await rm(known, { recursive: true });
  return data;
}

describe('a folder of an earlier data format', () => {
  it('opens, each of them, with all that is in it, and is searched, edited, undone and refreshed', async () => {
    const { entries } = await journalOf(MIGRATIONS);
    for (let count = 1; count <= entries.length; count++) {
      const { tag } = entries[count - 1];
      const running = await Running.start(false, await folderOf(count));
      const list = (await running.ask('GET', '/api/tables')).body as Record<string, { name: string; rows: number }[]>;
      expect(list['tables'].map(({ name, rows }) => [name, rows]))
        .withContext(tag)
        .toEqual([['Old things', 3]]);
      expect(list['boxes'].map(({ name }) => name))
        .withContext(tag)
        .toEqual(['Old box']);
      expect((await running.find(1, 'brückl', ['Thing'])).body['matched'])
        .withContext(tag)
        .toBe(1 as never);
      const edit = { kind: 'edited', columns: ['Thing'], changed: [{ id: 1, was: ['hat'], now: ['cap'] }] };
      const done = await running.ask('POST', '/api/tables/1/changes', { key: 'upgrade-1', ...edit });
      expect(done.status)
        .withContext(`${tag}: ${JSON.stringify(done.body)}`)
        .toBe(200);
      const { change } = (await running.ask('GET', '/api/tables/1')).body as Record<string, number>;
      // The first format had no log: its tables began one when they were migrated.
      expect(change)
        .withContext(tag)
        .toBe(count < 3 ? 2 : 3);
      if (count >= 3) {
        const undone = await running.ask('POST', '/api/tables/1/changes/2/undo', {});
        expect(undone.status).withContext(tag).toBe(200);
      }
      const file = 'No,Thing\n1,hat\n2,key\n3,Brückl’s “glove”\n4,ring\n';
      const refreshed = await running.ask('PUT', '/api/tables/1/rows?key=No', file);
      expect([refreshed.status, refreshed.body['added']])
        .withContext(tag)
        .toEqual([200, 1] as never);
      await running.end();
    }
  });
});
