/**
 * A database that lets its servers down: connections are cut at random, its places are all taken, and it ends and comes back, while
 * people edit on two servers. No server may end or stay behind the log, and what was acknowledged is written, once.
 */
import { setTimeout as rest } from 'node:timers/promises';
import type { Change } from '@usual-needle/contract';
import pg from 'pg';
import { Postgres } from './postgres.js';
import { end, folderOf, forget, type Program, startProgram } from './starting-program.js';

/** Of disorder; `CHAOS_SECONDS=120` for a long look. */
const SECONDS = Number(process.env['CHAOS_SECONDS'] ?? 15);
const ROWS = 40;

type Body = Record<string, unknown>;

async function ask(address: string, path: string, body?: Body): Promise<{ status: number; body: Body }> {
  const response = await fetch(`${address}/api/${path}`, {
    method: body ? 'POST' : 'GET',
    headers: { 'content-type': 'application/json' },
    body: body && JSON.stringify(body),
  });
  return { status: response.status, body: (await response.json()) as Body };
}

/** Takes every place that the database has, and cuts at a stroke who holds one, in turns that nobody can foresee. */
async function disorder(postgres: Postgres, until: number): Promise<Record<string, number>> {
  const done = { cut: 0, full: 0, failedOver: 0 };
  const client = (): pg.Client => {
    const made = new pg.Client(postgres.url);
    made.on('error', () => undefined);
    return made;
  };
  while (Date.now() < until) {
    await rest(50 + Math.random() * 250);
    const what = Math.random();
    if (what < 0.03) {
      await postgres.failOver();
      done.failedOver++;
    } else if (what < 0.1) {
      const many = Array.from({ length: 100 }, client);
      await Promise.allSettled(many.map((one) => one.connect()));
      await rest(1_000);
      await Promise.allSettled(many.map((one) => one.end()));
      done.full++;
    } else {
      const one = client();
      await one
        .connect()
        .then(() =>
          one.query(
            'select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid() and random() < 0.4',
          ),
        )
        .then(() => done.cut++)
        .catch(() => undefined);
      await one.end().catch(() => undefined);
    }
  }
  return done;
}

/** Edits their own row again and again; an edit that was not answered is sent again as it is. @returns how many were acknowledged */
async function keeps(address: string, table: number, row: number, until: number): Promise<string[]> {
  const acknowledged: string[] = [];
  let was = `thing ${row}`;
  for (let i = 0; Date.now() < until; i++) {
    const now = `thing ${row} edit ${i}`;
    const edit = {
      key: `chaos-${row}-${i}`,
      kind: 'edited',
      columns: ['Thing'],
      changed: [{ id: row, was: [was], now: [now] }],
    };
    for (;;) {
      const told = await ask(address, `tables/${table}/changes`, edit);
      if (told.status === 200) {
        expect(told.body['clashes']).withContext(edit.key).toBeUndefined();
        break;
      }
      expect(told.status).withContext(JSON.stringify(told.body)).toBe(503);
      await rest(50);
    }
    acknowledged.push(now);
    was = now;
  }
  return acknowledged;
}

describe('D3: a database that fails again and again', () => {
  let postgres: Postgres | undefined;
  let folder: string;
  const programs: Program[] = [];

  beforeAll(async () => {
    postgres = await Postgres.find();
    if (!postgres) return;
    folder = await folderOf('chaos');
    for (let i = 0; i < 2; i++)
      programs.push(await startProgram(folder, [], { DATABASE_URL: postgres.url, LOG_LEVEL: 'silent' }));
  }, 120_000);
  afterAll(async () => {
    await Promise.all(
      programs.filter(({ child }) => child.exitCode === null).map(({ child }) => end(child, 'SIGTERM')),
    );
    await postgres?.end();
    if (postgres) await forget(folder);
  }, 60_000);

  it(
    'ends no server, leaves none behind, and writes once what it acknowledged',
    async () => {
      if (!postgres) return pending('Debian’s postgresql is not here, and may not be installed');
      const [one, other] = programs.map(({ address }) => address);
      const csv = `No,Thing\n${Array.from({ length: ROWS }, (_, i) => `${i + 1},thing ${i + 1}`).join('\n')}\n`;
      const made = await fetch(`${one}/api/tables?name=Chaos`, {
        method: 'POST',
        headers: { 'content-type': 'text/csv' },
        body: csv,
      });
      const { id } = (await made.json()) as { id: number };
      const until = Date.now() + SECONDS * 1_000;
      const [done, ...acknowledged] = await Promise.all([
        disorder(postgres, until),
        ...[1, 2, 3, 4].map((row) => keeps(row % 2 ? one : other, id, row, until)),
      ]);
      expect(done['cut']).toBeGreaterThan(SECONDS);
      expect(programs.map(({ child }) => child.exitCode)).toEqual([null, null]);
      const logged: string[] = [];
      for (let after = 0; ;) {
        const { body } = await ask(one, `tables/${id}/changes?limit=100&after=${after}`);
        const changes = body['changes'] as Change[];
        for (const { rowChanges } of changes) logged.push(...(rowChanges ?? []).map(({ after }) => after![1]));
        if (changes.length < 100) break;
        after = changes.at(-1)!.number;
      }
      expect(logged.sort()).toEqual(acknowledged.flat().sort());
      expect(logged.length).toBeGreaterThan(SECONDS);
      // Every server answers of the last of the log, soon after the disorder ends.
      for (const address of [one, other])
        for (const [i, edits] of acknowledged.entries()) {
          const last = edits.at(-1) ?? `thing ${i + 1}`;
          const question = { threaded: ['Thing'], strands: [{ verb: 'find', text: `"${last}"` }] };
          const matched = async (): Promise<unknown> =>
            (await ask(address, `tables/${id}/search`, { question })).body['matched'];
          for (let tries = 0; tries < 100 && (await matched()) !== 1; tries++) await rest(100);
          expect(await matched())
            .withContext(`${last} on ${address}`)
            .toBe(1);
        }
    },
    SECONDS * 1_000 + 60_000,
  );
});
