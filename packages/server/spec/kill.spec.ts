import { request } from 'node:http';
import { end, folderOf, forget, startProgram } from './starting-program.js';

const CSV = { 'content-type': 'text/csv' };

describe('a server killed in the middle of its work', () => {
  it('has lost nothing it said it had, and shows nothing half brought in', async () => {
    const folder = await folderOf('kill');
    try {
      let { child, address } = await startProgram(folder);
      const csv = `A,B\n${Array.from({ length: 5_000 }, (_, i) => `row ${i},${i * 7}`).join('\n')}\n`;
      const kept = await fetch(`${address}/api/tables?name=Kept`, { method: 'POST', body: csv, headers: CSV });
      expect(kept.status).toBe(201);
      // The file never ends, so the bring-in is under way when the server is killed, whenever that is.
      const { hostname, port } = new URL(address);
      let answered = false;
      const sent = request(
        { hostname, port, method: 'POST', path: '/api/tables?name=Broken', headers: CSV },
        () => (answered = true),
      );
      sent.on('error', () => undefined);
      sent.write(csv + Array.from({ length: 60_000 }, (_, i) => `more ${i},${i}`).join('\n') + '\n');
      const rowsThere = async (): Promise<number> => {
        const { rows } = (await (await fetch(`${address}/api/health`)).json()) as { rows: number };
        return rows;
      };
      await new Promise((done) => setTimeout(done, 1_000));
      expect(await rowsThere()).toBe(5_000);
      expect(child.exitCode).withContext('it runs until it is killed').toBeNull();
      await end(child, 'SIGKILL');
      expect(child.signalCode).toBe('SIGKILL');
      expect(answered).withContext('the bring-in was not at its end').toBe(false);
      sent.destroy();

      ({ child, address } = await startProgram(folder));
      const { tables } = (await (await fetch(`${address}/api/tables`)).json()) as {
        tables: { id: number; name: string; rows: number }[];
      };
      expect(tables.map(({ name, rows }) => [name, rows])).toEqual([['Kept', 5_000]]);
      const { rows } = (await (await fetch(`${address}/api/tables/${tables[0].id}/rows?after=4999`)).json()) as {
        rows: { cells: string[] }[];
      };
      expect(rows.map(({ cells }) => cells)).toEqual([['row 4999', '34993']]);
      expect(await end(child, 'SIGTERM')).toBe(0);
    } finally {
      await forget(folder);
    }
  });

  it('at ten random moments of a refresh: all of it is there, or none', async () => {
    const folder = await folderOf('refresh');
    const of = (from: number, mark: string): string =>
      `No,Mark\n${Array.from({ length: 8_000 }, (_, i) => `${from + i},${mark}`).join('\n')}\n`;
    try {
      let killed = 0;
      let done = 0;
      for (let round = 0; round < 10; round++) {
        const { child, address } = await startProgram(folder);
        if (round === 0)
          await fetch(`${address}/api/tables?name=T`, { method: 'POST', body: of(0, 'first'), headers: CSV });
        const before = (await marks(address)).marks;
        expect(before.size).withContext(`round ${round}: one mark in all of its rows`).toBe(1);
        let answered = false;
        const refreshed = fetch(`${address}/api/tables/1/rows?key=No&gone=remove`, {
          method: 'PUT',
          body: of(0, `round ${round}`),
          headers: CSV,
        });
        refreshed.then(
          () => (answered = true),
          () => undefined,
        );
        await new Promise((wait) => setTimeout(wait, 100 + Math.random() * 1_500));
        await end(child, 'SIGKILL');
        if (answered) done++;
        else killed++;
      }
      const { child, address } = await startProgram(folder);
      const now = await marks(address);
      expect([now.marks.size, now.rows]).toEqual([1, 8_000]);
      expect(now.changes).toBeGreaterThanOrEqual(1 + done);
      expect(killed).withContext('some were killed before their end').toBeGreaterThan(0);
      await end(child, 'SIGTERM');
    } finally {
      await forget(folder);
    }
  });

  it('at ten random moments of a burst of edits: every acknowledged one is there, and no half change', async () => {
    const folder = await folderOf('edits');
    const edit = (address: string, key: string): Promise<Response> =>
      fetch(`${address}/api/tables/1/changes`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        // Two rows with one mark: half a change would leave one of them alone.
        body: JSON.stringify({
          key,
          kind: 'added',
          columns: ['Mark', 'Side'],
          added: [
            [key, 'a'],
            [key, 'b'],
          ],
        }),
      });
    try {
      const acknowledged = new Set<string>();
      let unanswered = 0;
      for (let round = 0; round < 10; round++) {
        const { child, address } = await startProgram(folder);
        if (round === 0)
          await fetch(`${address}/api/tables?name=T`, { method: 'POST', body: 'Mark,Side\nfirst,ab\n', headers: CSV });
        let killed = false;
        const lanes = [0, 1, 2, 3].map(async (lane) => {
          for (let i = 0; !killed; i++) {
            const key = `burst-${round}-${lane}-${i}`;
            try {
              if ((await edit(address, key)).status === 200) acknowledged.add(key);
            } catch {
              unanswered++;
            }
          }
        });
        // However slow the machine is, some are acknowledged before it is killed.
        const before = acknowledged.size;
        for (let i = 0; i < 300 && acknowledged.size < before + 3; i++)
          await new Promise((wait) => setTimeout(wait, 100));
        await new Promise((wait) => setTimeout(wait, Math.random() * 1_000));
        await end(child, 'SIGKILL');
        killed = true;
        await Promise.all(lanes);
      }
      const { child, address } = await startProgram(folder);
      const sides = new Map<string, string>();
      for (let after = 0; ;) {
        const { rows } = (await (await fetch(`${address}/api/tables/1/rows?limit=1000&after=${after}`)).json()) as {
          rows: { id: number; cells: string[] }[];
        };
        if (rows.length === 0) break;
        for (const { cells } of rows) sides.set(cells[0], (sides.get(cells[0]) ?? '') + cells[1]);
        after = rows[rows.length - 1].id;
      }
      expect([...sides.values()].every((both) => both === 'ab'))
        .withContext('no half change')
        .toBe(true);
      expect([...acknowledged].filter((key) => !sides.has(key))).toEqual([]);
      expect(acknowledged.size).toBeGreaterThan(20);
      expect(unanswered).withContext('some were under way').toBeGreaterThan(0);
      await end(child, 'SIGTERM');
    } finally {
      await forget(folder);
    }
  });

  it('at ten random moments of a bring-in: all of it is there, or none', async () => {
    const folder = await folderOf('bring-in');
    const body = `A,B\n${Array.from({ length: 30_000 }, (_, i) => `row ${i},${i}`).join('\n')}\n`;
    try {
      let [done, killed] = [0, 0];
      for (let round = 0; round < 10; round++) {
        const { child, address } = await startProgram(folder);
        let answered = false;
        const brought = fetch(`${address}/api/tables?name=T${round}`, { method: 'POST', body, headers: CSV }).then(
          () => (answered = true),
          () => undefined,
        );
        await new Promise((wait) => setTimeout(wait, 50 + Math.random() * 1_800));
        await end(child, 'SIGKILL');
        await brought;
        if (answered) done++;
        else killed++;
      }
      const { child, address } = await startProgram(folder);
      const { tables } = (await (await fetch(`${address}/api/tables`)).json()) as {
        tables: { id: number; rows: number }[];
      };
      expect(tables.every(({ rows }) => rows === 30_000)).toBe(true);
      expect(tables.length).toBeGreaterThanOrEqual(done);
      expect(killed).withContext('some were killed before their end').toBeGreaterThan(0);
      for (const { id } of tables) {
        const reply = await fetch(`${address}/api/tables/${id}/rows?after=29999`);
        const { rows } = (await reply.json()) as { rows: { cells: string[] }[] };
        expect(rows.map(({ cells }) => cells)).toEqual([['row 29999', '29999']]);
      }
      await end(child, 'SIGTERM');
    } finally {
      await forget(folder);
    }
  });
});

/** What the rows of the only table say, and how many changes it has had. */
async function marks(address: string): Promise<{ marks: Set<string>; rows: number; changes: number }> {
  const found = new Set<string>();
  let rows = 0;
  for (let after = 0; ;) {
    const reply = await fetch(`${address}/api/tables/1/rows?limit=1000&after=${after}`);
    const { rows: some } = (await reply.json()) as { rows: { id: number; cells: string[] }[] };
    if (some.length === 0) break;
    for (const { cells } of some) found.add(cells[1]);
    rows += some.length;
    after = some[some.length - 1].id;
  }
  const { changes } = (await (await fetch(`${address}/api/tables/1/changes?limit=1000`)).json()) as {
    changes: unknown[];
  };
  return { marks: found, rows, changes: changes.length };
}
