import { type ChildProcess, fork } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { SourceRuns } from '@usual-needle/contract';
import { Depot } from './depot.js';

const PROGRAM = fileURLToPath(new URL('month-server.js', import.meta.url));
const MINUTE = 60_000;
const EVERY = 45;
/** Runs of each of three sources in a month. */
const RUNS = (30 * 24 * 60) / EVERY;

/** Runs after which tables are compared with their sources. */
const LOOKED = 40;

/** Numbers that are the same each time (Park and Miller, 1988). */
function chance(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

describe('a month of three sources, with failures, restarts and kills', () => {
  it('has no run twice, none lost without a word, and tables like their sources', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'usual-needle-month-'));
    const depots = [await Depot.open(), await Depot.open(), await Depot.open()];
    const random = chance(20_261_201);
    const begin = Date.parse('2026-10-01T00:00:00Z');
    let child: ChildProcess;
    process.once('exit', () => child.kill('SIGKILL'));
    let address = '';
    let looked = 0;
    const start = async (): Promise<void> => {
      child = fork(PROGRAM, [folder], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
      const [said] = (await once(child, 'message')) as [{ address: string }];
      address = said.address;
    };
    const ask = async (method: string, path: string, body?: unknown): Promise<Record<string, never>> => {
      const type = typeof body === 'string' ? 'text/csv' : 'application/json';
      const response = await fetch(address + path, {
        method,
        headers: { 'if-match': '*', ...(body !== undefined && { 'content-type': type }) },
        ...(body !== undefined && { body: typeof body === 'string' ? body : JSON.stringify(body) }),
      });
      const text = await response.text();
      expect(response.ok).withContext(`${method} ${path}: ${text}`).toBe(true);
      return (text === '' ? {} : JSON.parse(text)) as Record<string, never>;
    };
    const rows = depots.map(() => new Map(Array.from({ length: 20 }, (_, i) => [i, `thing ${i}`])));
    const csv = (at: number): string => `No,Thing\n${[...rows[at]].map(([no, thing]) => `${no},${thing}\n`).join('')}`;
    const round = async (at: number, kill: boolean): Promise<void> => {
      child.send(at);
      if (!kill) return void (await once(child, 'message'));
      await new Promise((done) => setTimeout(done, random() * 60));
      child.kill('SIGKILL');
      await once(child, 'exit');
      await start();
      await round(at, false);
    };
    await start();
    const tables: number[] = [];
    for (const [at, depot] of depots.entries()) {
      depot.content = csv(at);
      tables.push((await ask('POST', `/api/tables?name=T${at}`, csv(at)))['id']);
    }
    child!.send(begin);
    await once(child!, 'message');
    for (const [at, depot] of depots.entries())
      await ask('PUT', `/api/tables/${tables[at]}/source`, {
        source: {
          from: { address: depot.address, signIn: 'none' },
          rhythm: { every: 'minutes', number: EVERY },
          ...{ key: ['No'], gone: 'remove', most: null },
        },
      });
    /** The moments that a source does not answer at. */
    const failing = depots.map(() => new Set<number>());
    /** Tables are as their sources are, and each moment since the last look has one run. */
    const compare = async (run: number): Promise<void> => {
      for (const [i, table] of tables.entries()) {
        const { rows: stored } = await ask('GET', `/api/tables/${table}/rows?limit=200`);
        const found = (stored as { cells: string[] }[]).map(({ cells }) => cells.join(',')).sort();
        expect(found).toEqual([...rows[i]].map(([no, thing]) => `${no},${thing}`).sort());
        const { runs } = (await ask('GET', `/api/tables/${table}/source/runs`)) as unknown as SourceRuns;
        const outcomes = new Map(runs.map(({ due, outcome }) => [due, outcome]));
        expect(outcomes.size).toBe(runs.length);
        for (let back = 0; back < LOOKED; back++) {
          const at = begin + (run - back) * EVERY * MINUTE;
          const outcome = outcomes.get(new Date(at).toISOString());
          expect(outcome)
            .withContext(`run ${run - back}`)
            .toMatch(failing[i].has(at) ? /^failed$/ : /^(done|same)$/);
          looked++;
        }
      }
    };
    for (let run = 1; run <= RUNS; run++) {
      const at = begin + run * EVERY * MINUTE;
      for (const [i, depot] of depots.entries()) {
        // Two of three times there is nothing new.
        const one = Math.floor(random() * 40);
        const luck = random();
        if (luck < 0.1) rows[i].delete(one);
        else if (luck < 0.35) rows[i].set(one, `thing ${one} of ${run}`);
        depot.content = csv(i);
        depot.etag = `"${createHash('sha256').update(depot.content).digest('hex')}"`;
        const fails = run < RUNS && random() < 0.02;
        if (fails) failing[i].add(at);
        depot.otherwise = fails ? (response) => response.writeHead(503).end() : undefined;
      }
      await round(at, run % 137 === 0);
      if (run % 320 === 0) {
        child!.send('end');
        await once(child!, 'exit');
        await start();
      }
      for (const depot of depots) depot.otherwise = undefined;
      // A minute later what failed is tried again.
      if (failing.some((moments) => moments.has(at))) await round(at + MINUTE, false);
      if (run % LOOKED === 0) await compare(run);
    }
    expect(looked).toBe(3 * RUNS);
    child!.send('end');
    await once(child!, 'exit');
    for (const depot of depots) await depot.close();
    await rm(folder, { recursive: true, force: true });
  }, 900_000);
});
