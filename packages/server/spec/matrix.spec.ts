import { readdirSync, readFileSync } from 'node:fs';
import { EVENT_LEVELS, MATRIX, STANDING_LEVELS, type AccessRow } from '../dist/access/matrix.js';
import { Asker, comes } from './people.js';
import { Running } from './running.js';

type Name = 'everything' | 'builder' | 'keeper' | 'reader' | 'nobody';
const NAMES: readonly Name[] = ['everything', 'builder', 'keeper', 'reader', 'nobody'];

/** Who may use a route of the first table, by its level. */
const MAY: Record<AccessRow['level'], readonly Name[]> = {
  anyone: NAMES,
  reads: NAMES,
  'signed in': ['everything', 'builder', 'keeper', 'reader'],
  keeps: ['everything', 'builder', 'keeper'],
  builds: ['everything', 'builder'],
  everything: ['everything'],
};

describe('the matrix of access', () => {
  let running: Running;
  let askers: Record<Name, Asker>;
  let box: number;
  let other: number;

  beforeAll(async () => {
    running = await Running.start(false);
    const machine = new Asker(running, undefined);
    const everything = await comes(running, machine, { name: 'M. Lind', everything: true });
    const brought = async (name: string) =>
      (await everything.ask('POST', `/api/tables?name=${name}`, 'Thing,Status\nhat,Held\ncap,Sold\n')).body[
        'id'
      ] as number;
    const first = await brought('First');
    await brought('Second');
    const role = (role: string) => [{ table: first, role }];
    askers = {
      everything,
      builder: await comes(running, everything, { name: 'A. Varga', roles: role('builds') }),
      keeper: await comes(running, everything, { name: 'T. Kessel', roles: role('keeps') }),
      reader: await comes(running, everything, { name: 'O. Brandt' }),
      nobody: new Asker(running, undefined),
    };
    const keep = async (table: number): Promise<number> => {
      const definition = { format: 'usual-needle box', version: 1, name: 'Look-up', threaded: ['Thing'] };
      return (await everything.ask('POST', `/api/tables/${table}/boxes`, { box: definition })).body['id'];
    };
    [box, other] = [await keep(1), await keep(2)];
  });
  afterAll(() => running.end());

  /** An address of a row, on a table or a box that is there. */
  const addressOf = (path: string, table: number, boxId: number): string =>
    path
      .replace('/api/boxes/:id', `/api/boxes/${boxId}`)
      .replace(':id', `${table}`)
      .replace(':slug', 'nothing-AAAAAAAAAAAAAAAAAAAAAA')
      .replace(':secret', 'AAAAAAAAAAAAAAAAAAAAAA')
      .replace(/:\w+/g, '1');

  /** Would do something that the next rows need; that they do it where they may is for other tests. */
  const isDone = ({ method, path }: AccessRow): boolean =>
    method === 'DELETE' || path === '/api/demo' || path.endsWith('/events') || path.endsWith('sign-out');
  const body = ({ method }: AccessRow): unknown =>
    method === 'GET' || method === 'DELETE' ? undefined : { nothing: 'such' };

  for (const row of MATRIX)
    it(`${row.method} ${row.path}: ${row.level}`, async () => {
      for (const name of NAMES) {
        const may = MAY[row.level].includes(name);
        if (may && isDone(row)) continue;
        const reply = await askers[name].ask(row.method, addressOf(row.path, 1, box), body(row));
        const said = `${name}: ${reply.status} ${JSON.stringify(reply.body).slice(0, 200)}`;
        if (may) {
          expect([200, 201, 204, 400, 404, 412, 415, 422, 428].includes(reply.status)).withContext(said).toBeTrue();
          expect(reply.body['title']).not.toBe('There is nothing at this address' as never);
          if (row.level === 'keeps' || row.level === 'builds')
            expect(/no such (table|box)/.test(reply.body['title'] ?? ''))
              .withContext(said)
              .toBeFalse();
        } else if (name === 'nobody') expect(reply.status).withContext(said).toBe(401);
        else if (name === 'reader' && row.level !== 'everything') expect(reply.status).withContext(said).toBe(404);
        else expect(reply.status).withContext(said).toBe(403);
        if ((row.level !== 'keeps' && row.level !== 'builds') || name === 'everything' || name === 'nobody') continue;
        // Of the other table nobody of these has anything, and it is told of as one that never was.
        const theirs = await askers[name].ask(row.method, addressOf(row.path, 2, other), body(row));
        const never = await askers[name].ask(row.method, addressOf(row.path, 9_999, 9_999), body(row));
        expect([theirs.status, theirs.body]).withContext(name).toEqual([never.status, never.body]);
        expect(theirs.status).toBe(404);
      }
    });

  it('goes by the number in an address as the routes read it, however it is written', async () => {
    for (const name of ['keeper', 'reader'] as const)
      for (const [path, kind] of [
        ['/api/tables/', 'table'],
        ['/api/boxes/', 'box'],
      ])
        for (const id of ['%32', '%252', '2%00', '02', '+2', '2.0', '0x2', '2;', '%']) {
          const reply = await askers[name].ask('DELETE', `${path}${id}`, undefined, { 'if-match': '*' });
          expect([400, 404]).withContext(`${name} ${kind} ${id}`).toContain(reply.status);
        }
    const { body: told } = await askers.everything.ask('GET', '/api/tables');
    expect((told['tables'] as unknown[]).length).toBe(2);
    expect((told['boxes'] as unknown[]).length).toBe(2);
  });

  it('has each route once', () => {
    const all = MATRIX.map(({ method, path }) => `${method} ${path}`);
    expect(new Set(all).size).toBe(all.length);
  });

  it('has each event that is told', () => {
    const folder = new URL('../src/live/', import.meta.url);
    const told = readdirSync(folder).flatMap((file) =>
      [...readFileSync(new URL(file, folder), 'utf8').matchAll(/eventText\('(\w+)'/g)].map(([, event]) => event),
    );
    expect([...new Set(told)].sort()).toEqual(Object.keys(EVENT_LEVELS).sort());
  });

  it('has each way to ask by the standing connection', () => {
    const text = readFileSync(new URL('../src/routes/standing.ts', import.meta.url), 'utf8');
    const [, ways] = /oneOf: \[(.*)\]/.exec(text)!;
    expect([...ways.matchAll(/required: \['(\w+)'\]/g)].map(([, way]) => way).sort()).toEqual(
      Object.keys(STANDING_LEVELS).sort(),
    );
  });

  it('lists to each the tables and boxes that are theirs', async () => {
    const listed = async (name: Name): Promise<unknown[]> => {
      const { body: told } = await askers[name].ask('GET', '/api/tables');
      const { tables, boxes, deleted } = told as unknown as Record<string, { name: string }[]>;
      return [tables.map((one) => one.name), boxes.length, deleted.length];
    };
    const third = await askers.everything.ask('POST', '/api/tables?name=Third', 'A\n1\n');
    await askers.everything.ask('DELETE', `/api/tables/${third.body['id']}`);
    expect(await listed('everything')).toEqual([['First', 'Second'], 2, 1]);
    expect(await listed('builder')).toEqual([['First'], 1, 0]);
    expect(await listed('keeper')).toEqual([['First'], 1, 0]);
    expect(await listed('reader')).toEqual([[], 0, 0]);
  });
});
