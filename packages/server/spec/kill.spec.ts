import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const MAIN = fileURLToPath(new URL('../dist/main.js', import.meta.url));

async function start(folder: string): Promise<{ child: ChildProcess; address: string }> {
  const child = spawn(process.execPath, [MAIN, '--port', '0', '--data', folder, '--no-demo'], {
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  const [said] = (await once(child.stdout!, 'data')) as [Buffer];
  return { child, address: /http:\S+/.exec(said.toString())![0] };
}

async function kill(child: ChildProcess): Promise<void> {
  child.kill('SIGKILL');
  await once(child, 'exit');
}

describe('a server killed in the middle of its work', () => {
  it('has lost nothing it said it had, and shows nothing half brought in', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'usual-needle-kill-'));
    try {
      let { child, address } = await start(folder);
      const csv = `A,B\n${Array.from({ length: 5_000 }, (_, i) => `row ${i},${i * 7}`).join('\n')}\n`;
      const kept = await fetch(`${address}/api/tables?name=Kept`, { method: 'POST', body: csv });
      expect(kept.status).toBe(201);
      const large = csv + Array.from({ length: 60_000 }, (_, i) => `more ${i},${i}`).join('\n');
      const broken = fetch(`${address}/api/tables?name=Broken`, { method: 'POST', body: large }).catch(() => undefined);
      await new Promise((done) => setTimeout(done, 700));
      await kill(child);
      await broken;

      ({ child, address } = await start(folder));
      const { tables } = (await (await fetch(`${address}/api/tables`)).json()) as {
        tables: { id: number; name: string; rows: number }[];
      };
      const whole = tables.filter(({ name }) => name === 'Kept');
      expect(whole.map(({ rows }) => rows)).toEqual([5_000]);
      for (const { name, rows } of tables) if (name === 'Broken') expect(rows).toBe(65_000);
      const { rows } = (await (await fetch(`${address}/api/tables/${whole[0].id}/rows?after=4999`)).json()) as {
        rows: { cells: string[] }[];
      };
      expect(rows.map(({ cells }) => cells)).toEqual([['row 4999', '34993']]);
      await kill(child);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });
});
