import { execFileSync, spawnSync } from 'node:child_process';
import { writeFile } from 'node:fs/promises';
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
