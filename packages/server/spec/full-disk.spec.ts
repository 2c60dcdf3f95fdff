import { execFileSync, spawnSync } from 'node:child_process';
import { rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { end, folderOf, forget, startProgram, tried } from './starting-program.js';

const CSV = { 'content-type': 'text/csv' };
/** Room of the disk, in megabytes: some bring-ins fit. */
const SIZE = 160;

describe('A14: a full disk', () => {
  let folder: string;
  let mounted: boolean;
  beforeEach(async () => {
    folder = await folderOf('full');
    mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${SIZE}m`, 'tmpfs', folder]).status === 0;
  });
  afterEach(async () => {
    if (mounted) execFileSync('umount', ['-l', folder]);
    await forget(folder);
  });

  it('is said, loses nothing that was acknowledged, and does not prevent the next start', async () => {
    if (!mounted) return pending('a disk of its own cannot be made here');
    const data = join(folder, 'data');
    let { child, address } = await startProgram(data);
    const bringIn = (name: string, rows: number) =>
      fetch(`${address}/api/tables?name=${name}`, {
        method: 'POST',
        headers: CSV,
        body: `A,B\n${Array.from({ length: rows }, (_, i) => `row ${i} ${'x'.repeat(200)},${i}`).join('\n')}\n`,
      });
    expect((await bringIn('Kept', 1_000)).status).toBe(201);
    let refused = 0;
    for (let i = 0; i < 12 && refused === 0; i++) {
      const response = await bringIn(`Large ${i}`, 20_000);
      if (response.status === 201) continue;
      refused = response.status;
      expect(((await response.json()) as { detail: string }).detail).toContain('Make room on it');
    }
    expect(refused).withContext('the disk was full at some time').toBe(507);
    // Others are answered as before.
    expect((await fetch(`${address}/api/tables`)).status).toBe(200);
    // All that is left is used up, too.
    await writeFile(join(folder, 'filler'), new Uint8Array(SIZE * 1024 * 1024)).catch(() => undefined);
    await end(child, 'SIGKILL');

    ({ child, address } = await startProgram(data));
    const { tables } = (await (await fetch(`${address}/api/tables`)).json()) as {
      tables: { id: number; name: string; rows: number }[];
    };
    expect(tables[0]).toEqual(jasmine.objectContaining({ name: 'Kept', rows: 1_000 }));
    for (const { name, rows } of tables.slice(1))
      expect([name, rows]).toEqual([jasmine.stringMatching(/^Large/), 20_000] as never);
    const search = await fetch(`${address}/api/tables/${tables[0].id}/search`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ question: { threaded: ['A'], strands: [{ verb: 'find', text: '"row 99"' }] } }),
    });
    expect(((await search.json()) as { matched: number }).matched).toBe(11);
    await end(child, 'SIGTERM');
  });

  it('is said at each kind of write, and what was acknowledged then is there; with room again all can be written', async () => {
    if (!mounted) return pending('a disk of its own cannot be made here');
    const data = join(folder, 'data');
    let { child, address } = await startProgram(data);
    const send = (method: string, path: string, body: unknown, type = 'application/json') =>
      fetch(`${address}/api${path}`, {
        method,
        headers: { 'content-type': type, 'if-match': '*' },
        body: type === 'text/csv' ? (body as string) : JSON.stringify(body),
      });
    const rows = (mark: string): string =>
      `A,B\n${Array.from({ length: 500 }, (_, i) => `${i},${mark} ${i}`).join('\n')}\n`;
    const edit = (key: string, now: string) =>
      send('POST', '/tables/1/changes', {
        key,
        kind: 'edited',
        columns: ['B'],
        changed: [{ id: 7, was: [null], now: [now] }],
      });
    const box = (name: string) => ({ box: { format: 'usual-needle box', version: 1, name } });
    expect((await send('POST', '/tables?name=Kept', rows('first'), 'text/csv')).status).toBe(201);
    expect((await send('POST', '/tables/1/boxes', box('Before'))).status).toBe(201);
    const filler = join(folder, 'filler');
    await writeFile(filler, new Uint8Array(SIZE * 1024 * 1024)).catch(() => undefined);
    const long = 'x'.repeat(90_000);
    const writes: [what: string, write: () => Promise<Response>][] = [
      ['an edit', () => edit('full-disk-edit', `edited ${long}`)],
      [
        'a row',
        () =>
          send('POST', '/tables/1/changes', { key: 'full-disk-row', kind: 'added', columns: ['B'], added: [[long]] }),
      ],
      ['a box', () => send('POST', '/tables/1/boxes', box('While full'))],
      ['a box that is changed', () => send('PUT', '/boxes/1', box('Changed'))],
      ['a column', () => send('POST', '/tables/1/columns', { add: { name: 'C', kind: 'text' } })],
      ['a refresh', () => send('PUT', '/tables/1/rows?key=A', rows(`second ${long.slice(0, 2_000)}`), 'text/csv')],
      ['a bring-in', () => send('POST', '/tables?name=New', rows('new'), 'text/csv')],
      ['a deletion', () => send('DELETE', '/boxes/1', {})],
    ];
    const done = new Set<string>();
    for (const [what, write] of writes) {
      const reply = await write();
      if (reply.ok) done.add(what);
      else {
        expect([507, 503]).withContext(what).toContain(reply.status);
        expect(((await reply.json()) as { detail: string }).detail)
          .withContext(what)
          .toMatch(/room|again/);
      }
    }
    expect(done.size)
      .withContext([...done].join())
      .toBeLessThan(writes.length);
    expect((await fetch(`${address}/api/tables`)).status).toBe(200);
    await rm(filler);
    let status = 0;
    for (let i = 0; i < 100 && status !== 200; i++) {
      ({ status } = await edit('full-disk-after', 'after'));
      await new Promise((wait) => setTimeout(wait, 100));
    }
    expect(status).withContext('an edit, with room again').toBe(200);
    await end(child, 'SIGKILL');
    ({ child, address } = await startProgram(data));
    const { tables, boxes } = (await (await fetch(`${address}/api/tables`)).json()) as {
      tables: { id: number; name: string; rows: number; columns: { name: string }[] }[];
      boxes: { name: string }[];
    };
    expect(tables[0].rows).toBe(done.has('a row') ? 501 : 500);
    expect(tables[0].columns.length).toBe(done.has('a column') ? 3 : 2);
    expect(tables.some(({ name }) => name === 'New')).toBe(done.has('a bring-in'));
    expect(boxes.some(({ name }) => name === 'While full')).toBe(done.has('a box'));
    const kept = (await (await fetch(`${address}/api/tables/1/rows?after=6&limit=2`)).json()) as {
      rows: { cells: string[] }[];
    };
    expect(kept.rows[0].cells[1]).toBe('after');
    expect(kept.rows[1].cells[1].slice(0, 6)).toBe(done.has('a refresh') ? 'second' : 'first ');
    await end(child, 'SIGTERM');
  });

  it('from the start is one clear line', () => {
    if (!mounted) return pending('a disk of its own cannot be made here');
    execFileSync('sh', ['-c', `head -c ${SIZE}m /dev/zero > ${join(folder, 'filler')} || true`], { stdio: 'ignore' });
    const { code, said } = tried(['--port', '0', '--data', join(folder, 'data'), '--no-demo']);
    expect([code, said.trim().split('\n').length])
      .withContext(said)
      .toEqual([2, 1]);
    expect(said).toMatch(/cannot be (?:written to|opened)/);
  });
});
