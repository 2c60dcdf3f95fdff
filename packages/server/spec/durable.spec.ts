import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { cp, mkdir, readFile, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { brotliDecompressSync } from 'node:zlib';
import { fileURLToPath } from 'node:url';
import { Running } from './running.js';
import { end, folderOf, forget, isInstalled, MAIN, startProgram } from './starting-program.js';

const OLD = fileURLToPath(new URL('../spec/fixtures/data-of-before-the-log.tar.br', import.meta.url));
const CSV = { 'content-type': 'text/csv' };
const JSON_TYPE = { 'content-type': 'application/json' };

describe('A14: what is acknowledged is on the disk', () => {
  it('by one flush to it at least for each save, as the system counts them', async () => {
    if (!isInstalled('strace')) spawnSync('apt-get', ['install', '-y', '-qq', 'strace']);
    if (!isInstalled('strace')) {
      pending('strace is not here, and may not be installed');
      return;
    }
    const folder = await folderOf('fsync');
    const trace = await folderOf('trace');
    const log = join(trace, 'log');
    const flushes = async (): Promise<number> =>
      (await readFile(log, 'utf8')).split('\n').filter((line) => /\b(?:fsync|fdatasync)\(/.test(line)).length;
    const before = ['strace', '-f', '-qq', '-e', 'trace=fsync,fdatasync', '-o', log];
    const { child, address } = await startProgram(folder, [], {}, before);
    try {
      const made = await fetch(`${address}/api/tables?name=T`, { method: 'POST', headers: CSV, body: 'A\n1\n' });
      const { id } = (await made.json()) as { id: number };
      const start = await flushes();
      for (let i = 1; i <= 5; i++) {
        const body = JSON.stringify({ box: { format: 'usual-needle box', version: 1, name: `Box ${i}` } });
        const kept = await fetch(`${address}/api/tables/${id}/boxes`, { method: 'POST', headers: JSON_TYPE, body });
        expect(kept.status).toBe(201);
        expect(await flushes())
          .withContext(`after save ${i}`)
          .toBeGreaterThanOrEqual(start + i);
      }
    } finally {
      // The tracer passes the signal on.
      spawnSync('pkill', ['-TERM', '-P', String(child.pid)]);
      await end(child, 'SIGTERM').catch(() => undefined);
      await forget(folder);
      await forget(trace);
    }
  });

  it('and killed bring-ins leave no room taken behind', async () => {
    const folder = await folderOf('room');
    const rows = Array.from({ length: 40_000 }, (_, i) => `row ${i} ${'x'.repeat(60)},${i}`).join('\n');
    const size = (): number =>
      Number(execFileSync('du', ['-sk', join(folder, 'pg')], { encoding: 'utf8' }).split('\t')[0]);
    const first = await startProgram(folder);
    await end(first.child, 'SIGTERM');
    const empty = size();
    for (let i = 0; i < 3; i++) {
      const { child, address } = await startProgram(folder);
      const sent = fetch(`${address}/api/tables?name=Never`, { method: 'POST', headers: CSV, body: `A,B\n${rows}` });
      sent.catch(() => undefined);
      await new Promise((done) => setTimeout(done, 400));
      await end(child, 'SIGKILL');
    }
    const { child, address } = await startProgram(folder);
    const { tables } = (await (await fetch(`${address}/api/tables`)).json()) as { tables: { rows: number }[] };
    // A bring-in that came to its end before it was killed is there, whole.
    for (const table of tables) expect(table.rows).toBe(40_000);
    await end(child, 'SIGTERM');
    // What the log of the database itself keeps, it uses again.
    expect(size() - empty).toBeLessThan((tables.length + 3) * 20_000);
    await forget(folder);
  });
});

describe('E1: a data folder of before the log', () => {
  it('opens with all that is in it: rows, order, boxes, and the deleted box', async () => {
    const folder = await folderOf('old');
    const tar = brotliDecompressSync(await readFile(OLD));
    execFileSync('tar', ['-x', '-C', folder], { input: tar });
    if (!(await readdir(folder)).includes('pg')) {
      await mkdir(join(folder, 'pg'));
      for (const name of await readdir(folder))
        if (name !== 'pg') await cp(join(folder, name), join(folder, 'pg', name));
    }
    const running = await Running.start(true, folder);
    try {
      const { body } = await running.ask('GET', '/api/tables');
      const tables = body['tables'] as { id: number; name: string; rows: number; change: number }[];
      expect(tables.map(({ id, name, rows }) => [id, name, rows])).toEqual([
        [1, 'Old things', 40],
        [2, 'Few', jasmine.any(Number)],
      ] as never);
      const columns = (tables[0] as unknown as { columns: { name: string; order?: string[] }[] }).columns;
      expect(columns.map(({ name }) => name)).toEqual(['Item no.', 'Description', 'Status', 'Found on', 'Value']);
      expect(columns[2].order).toEqual(['Returned', 'Held']);
      const rows = (await running.ask('GET', '/api/tables/1/rows')).body['rows'] as { cells: string[] }[];
      expect(rows.length).toBe(40);
      expect(rows.filter(({ cells }) => cells[1].includes('Łucja’s “keys”')).length).toBeGreaterThan(0);
      expect(rows.filter(({ cells }) => cells[1].includes('map\nold')).length).toBeGreaterThan(0);
      expect((await running.find(1, 'brückl', ['Description'])).body['matched']).toBe(
        rows.filter(({ cells }) => cells[1].includes('Brückl')).length as never,
      );
      expect((body['boxes'] as { name: string }[]).map(({ name }) => name)).toEqual(['Old box']);
      const deleted = body['deleted'] as { id: number; name: string }[];
      expect(deleted.map(({ name }) => name)).toEqual(['Deleted box']);
      const back = await running.ask('POST', `/api/boxes/${deleted[0].id}/restore`);
      expect([back.status, (back.body as { name?: string }).name]).toEqual([200, 'Deleted box']);
      // The log goes on from there.
      const change = await running.server.data.changes.edit(1, 'added', [{ cells: ['LP-999', 'new', '', '', ''] }]);
      expect([change!.number, change!.rowChanges![0].id]).toEqual([tables[0].change + 1, 41]);
    } finally {
      await running.end();
    }
  });

  it('and a folder of before is whole, though the server is killed again and again while it brings it up to date', async () => {
    const folder = await folderOf('migration');
    const tar = spawnSync('tar', ['-x', '-C', folder], { input: brotliDecompressSync(await readFile(OLD)) });
    expect(tar.status).toBe(0);
    try {
      for (let round = 0; round < 8; round++) {
        const child = spawn(process.execPath, [MAIN, '--port', '0', '--data', folder, '--no-demo', '--no-warm-up'], {
          stdio: 'ignore',
        });
        // From before it opens the database until after it has listened.
        await new Promise((done) => setTimeout(done, 250 + 150 * round));
        expect(child.exitCode).withContext('it runs until it is killed').toBeNull();
        await end(child, 'SIGKILL');
      }
      const { child, address } = await startProgram(folder);
      const { tables } = (await (await fetch(`${address}/api/tables`)).json()) as { tables: { rows: number }[] };
      expect(tables[0].rows).toBe(40);
      const { rows } = (await (await fetch(`${address}/api/tables/1/rows`)).json()) as { rows: unknown[] };
      expect(rows.length).toBe(40);
      expect(await end(child, 'SIGTERM')).toBe(0);
    } finally {
      await forget(folder);
    }
  });
});
