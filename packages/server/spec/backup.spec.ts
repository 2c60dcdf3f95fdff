import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { gunzipSync, gzipSync } from 'node:zlib';
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { restore } from '../dist/backup/read.js';
import { openEmbeddedDatabase, openServerDatabase, type Database } from '../dist/data/database.js';
import { startEmbedded } from '../dist/data/embedded.js';
import { rowsThen } from '../dist/data/rows-then.js';
import { Asker, comes } from './people.js';
import { Postgres } from './postgres.js';
import { Running } from './running.js';

const COMMAND = fileURLToPath(new URL('../../cli/bin/usual-needle.js', import.meta.url));

/** The cells of a table as a server has them, or had them after a change. */
async function cellsOf(running: Running, table: number, then: number): Promise<string[][]> {
  const all: string[][] = [];
  for await (const rows of rowsThen(running.server.data.tables, table, then))
    for (const { id, cells } of rows) all.push([String(id), ...cells]);
  return all;
}

async function taken(running: Running, headers: Record<string, string> = {}): Promise<Buffer> {
  const reply = await fetch(`${running.server.address}/api/backup`, { headers });
  expect(reply.status).toBe(200);
  return Buffer.from(await reply.arrayBuffer());
}

/** The same backup with its lines changed, its end as before. */
function withLines(backup: Buffer, change: (lines: string[]) => string[]): Buffer {
  const lines = gunzipSync(backup).toString('utf8').trimEnd().split('\n');
  return gzipSync(`${change(lines).join('\n')}\n`);
}

describe('a backup', () => {
  let folder: string;
  beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'usual-needle-backup-'))));
  afterAll(() => rm(folder, { recursive: true, force: true }));
  let made = 0;
  const fresh = async (): Promise<[string, Database]> => {
    const data = join(folder, `data-${++made}`);
    return [data, await openEmbeddedDatabase(await startEmbedded(data))];
  };

  it('taken while all is edited at random is of one moment, and goes on as before once it is put back', async () => {
    const running = await Running.start(false);
    const rows = Array.from({ length: 6_000 }, (_, i) => `${i},thing ${i}\n`).join('');
    const table = (await running.ask('POST', '/api/tables?name=Edited', `No,Thing\n${rows}`)).body['id'] as number;
    const box = { format: 'usual-needle box', version: 1, name: 'Look-up', threaded: ['Thing'] };
    const kept = (await running.ask('POST', `/api/tables/${table}/boxes`, { box })).body['id'] as number;
    let isOver = false;
    let edits = 0;
    const editing = (async () => {
      while (!isOver) {
        const id = 1 + ((edits * 7_919) % 6_000);
        const now = edits % 5 === 4 ? 'x' : `edit ${edits}`;
        const { tables } = running.server.data;
        const [row] = await tables.rowsOf(table, [id]);
        const key = `backup-edit-${edits}`;
        const edit =
          edits % 4 === 3 && row
            ? { kind: 'removed', columns: [], removed: [{ id, seen: row.version }] }
            : edits % 4 === 2 || !row
              ? { kind: 'added', columns: ['Thing'], added: [[now]] }
              : { kind: 'edited', columns: ['Thing'], changed: [{ id, was: [row.cells[1]], now: [now] }] };
        const reply = await running.ask('POST', `/api/tables/${table}/changes`, { key, ...edit });
        expect(reply.status).withContext(JSON.stringify(reply.body)).toBeLessThan(300);
        edits++;
      }
    })();
    const backups: Buffer[] = [];
    for (let i = 0; i < 3; i++) {
      while (edits < 40 * (i + 1)) await new Promise((done) => setTimeout(done, 5));
      backups.push(await taken(running));
    }
    isOver = true;
    await editing;
    const changes = new Set<number>();
    for (const backup of backups) {
      const [data, database] = await fresh();
      await restore(database, Readable.from([backup]));
      await database.close();
      const again = await Running.start(false, data);
      const summary = (await again.ask('GET', `/api/tables/${table}`)).body;
      const then = summary['change'] as number;
      changes.add(then);
      expect(await cellsOf(again, table, then)).toEqual(await cellsOf(running, table, then));
      expect((await again.find(table, 'thing', ['Thing'])).body['total']).toBe(summary['rows']);
      expect((await again.ask('GET', `/api/boxes/${kept}`)).body['name']).toBe('Look-up' as never);
      // Each of the last changes can be undone, one after the other, which goes by versions of rows; numbers go on.
      for (let number = then; number > then - 8; number--)
        expect((await again.ask('POST', `/api/tables/${table}/changes/${number}/undo`, {})).status).toBe(200);
      expect(await cellsOf(again, table, then + 8)).toEqual(await cellsOf(running, table, then - 8));
      const other = (await again.ask('POST', '/api/tables?name=Next', 'A\n1\n')).body['id'] as number;
      expect(other).toBeGreaterThan(table);
      await again.end();
    }
    expect(changes.size).toBe(3);
    await running.end();
  });

  it('goes from the embedded database to a PostgreSQL and back', async () => {
    const postgres = await Postgres.find();
    if (!postgres) return pending('Debian’s postgresql is not here, and may not be installed');
    const running = await Running.start(false);
    const machine = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    const odd = 'No,Thing\n1,"a ""b"", c\nd \\ é \u2028"\n2,\n';
    const table = (await machine.ask('POST', '/api/tables?name=Odd', odd)).body['id'] as number;
    await machine.ask('POST', `/api/tables/${table}/changes`, {
      key: 'backup-odd-1',
      kind: 'edited',
      columns: ['Thing'],
      changed: [{ id: 2, was: [''], now: ['\\N'] }],
    });
    const first = await taken(running, { cookie: machine.cookie! });
    await running.end();
    const server = await openServerDatabase(postgres.url);
    expect((await restore(server, Readable.from([first]))).rows).toBe(2);
    await server.close();
    const onServer = await Running.start(false, undefined, { databaseUrl: postgres.url });
    const lind = { name: 'M. Lind', password: 'a long enough password' };
    const signedIn = await onServer.ask('POST', '/api/sign-in', lind);
    const second = await taken(onServer, { cookie: (signedIn.headers.get('set-cookie') ?? '').split(';')[0] });
    await onServer.end();
    const [data, database] = await fresh();
    await restore(database, Readable.from([second]));
    await database.close();
    const again = await Running.start(false, data);
    expect(await cellsOf(again, table, 2)).toEqual([
      ['1', '1', 'a "b", c\nd \\ é \u2028'],
      ['2', '2', '\\N'],
    ]);
    // Everything else is as in the first, but for what was done since: signing in.
    const rowLines = (backup: Buffer): string[] =>
      gunzipSync(backup)
        .toString('utf8')
        .split('\n')
        .filter((line) => /"(cells|columns|password)":/.test(line));
    expect(rowLines(second).map((line) => line.replace(/"seen_at":[^,]*,/, ''))).toEqual(
      rowLines(first).map((line) => line.replace(/"seen_at":[^,]*,/, '')),
    );
    await again.end();
    await postgres.end();
  });

  it('that is cut off, damaged, of a newer version, or none, is refused, and nothing is kept of it', async () => {
    const running = await Running.start(false);
    await running.ask('POST', '/api/tables?name=Some', 'A\n1\n2\n');
    const whole = await taken(running);
    await running.end();
    const [, database] = await fresh();
    const damagedByte = Buffer.from(whole);
    damagedByte[whole.length >> 1] ^= 255;
    const wrong: [what: string, bytes: Buffer, why: RegExp][] = [
      ['cut off', whole.subarray(0, whole.length - 20), /cut off/],
      ['a byte that is another', damagedByte, /cut off or damaged|digest|no backup/],
      ['a line less', withLines(whole, (lines) => lines.filter((line) => !line.includes('"cells"'))), /digest/],
      [
        'a cell that is another',
        withLines(whole, (lines) => lines.map((line) => line.replace('[\\"2\\"]', '[\\"3\\"]'))),
        /digest/,
      ],
      ['no end', withLines(whole, (lines) => lines.slice(0, -1)), /cut off/],
      ['more after its end', withLines(whole, (lines) => [...lines, '{}']), /follows its end/],
      [
        'newer',
        withLines(whole, ([head, ...lines]) => [head.replace(/"schema":\d+/, '"schema":999'), ...lines]),
        /newer Usual Needle/,
      ],
      ['another file', gzipSync('No,Thing\n1,hat\n'), /no backup/],
      ['no gzip', Buffer.from('No,Thing\n1,hat\n'), /no backup/],
      ['empty', Buffer.alloc(0), /empty|no backup/],
    ];
    for (const [what, bytes, why] of wrong) {
      await expectAsync(restore(database, Readable.from([bytes])))
        .withContext(what)
        .toBeRejectedWithError(why);
      const { rows } = await database.db.execute('select count(*)::int as count from tables');
      expect(rows)
        .withContext(what)
        .toEqual([{ count: 0 }]);
    }
    await restore(database, Readable.from([whole]));
    await expectAsync(restore(database, Readable.from([whole]))).toBeRejectedWithError(/something here already/);
    await database.close();
  });

  it('holds no secret as it is, and no sign-in', async () => {
    const running = await Running.start(false);
    const machine = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    const table = (await machine.ask('POST', '/api/tables?name=Found', 'No\n1\n')).body['id'] as number;
    const from = { address: 'https://depot.example/x.csv', signIn: 'token' };
    const source = { from, rhythm: { every: 'hours', number: 1 }, key: ['No'], gone: 'keep', most: 5 };
    await machine.ask('PUT', `/api/tables/${table}/source`, { source, secret: { token: 's3cret-of-depot' } });
    const text = gunzipSync(await taken(running, { cookie: machine.cookie! })).toString('utf8');
    expect(text).toContain('depot.example');
    expect(text).not.toMatch(/s3cret-of-depot|sign_ins|a long enough password/);
    const other = await comes(running, machine, { name: 'T. Kessel', roles: [{ table, role: 'builds' }] });
    expect((await other.ask('GET', '/api/backup')).status).toBe(403);
    await running.end();
  });

  it('is made and put back by the command; a folder in use says what to do', async () => {
    const running = await Running.start(false);
    await running.ask('POST', '/api/tables?name=Some', 'A\n1\n2\n');
    const run = (...args: string[]): [number | null, string] => {
      const { status, stdout, stderr } = spawnSync(process.execPath, [COMMAND, ...args], { encoding: 'utf8' });
      return [status, stdout + stderr];
    };
    const to = join(folder, 'kept.backup');
    expect(run('backup', '--data', running.folder, '--to', to)).toEqual([
      2,
      jasmine.stringMatching(/in use.*--server/s),
    ]);
    await running.stop();
    const again = join(folder, 'again.backup');
    expect(run('backup', '--data', running.folder, '--to', again)).toEqual([
      0,
      jasmine.stringMatching(/^Backed up as of 20/),
    ]);
    const back = join(folder, 'back');
    expect(run('restore', '--from', again, '--data', back)).toEqual([0, jasmine.stringMatching(/: 2 rows$/m)]);
    expect(run('restore', '--from', again, '--data', back)).toEqual([
      2,
      jasmine.stringMatching(/something here already/),
    ]);
    expect(run('restore', '--from', join(folder, 'none'), '--data', back)[0]).toBe(2);
    expect(run('backup', '--server', '127.0.0.1:9', '--to', to)).toEqual([
      2,
      jasmine.stringMatching(/does not answer/),
    ]);
    expect((await readFile(again)).length).toBeGreaterThan(100);
    await rm(running.folder, { recursive: true, force: true });
  });
});
