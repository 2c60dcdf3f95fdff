import { pino } from 'pino';
import { Asker, comes } from './people.js';
import { Running } from './running.js';

const CSV = 'No,Thing\n1,umbrella\n2,hat\n';

/** The samples of an OpenMetrics text, by their names and labels; the shape of each line is looked at. */
function samplesOf(text: string): Map<string, number> {
  const lines = text.split('\n');
  expect(lines.at(-2)).toBe('# EOF');
  const samples = new Map<string, number>();
  for (const line of lines.slice(0, -2)) {
    if (/^# (HELP|TYPE|UNIT) [a-z_][a-z0-9_]*( .*)?$/i.test(line)) continue;
    const [, name, value] = /^([a-z_][a-z0-9_]*(?:\{[^}]*\})?) (\S+)(?: # .*)?$/i.exec(line) ?? [];
    expect(name).withContext(line).toBeDefined();
    expect(Number.isFinite(Number(value)) || value === '+Inf' || value === 'Nan')
      .withContext(line)
      .toBe(true);
    samples.set(name, Number(value));
  }
  return samples;
}

describe('a server that is watched', () => {
  it('is live, ready, and tells its state in numbers, in which there is no name and no text', async () => {
    const running = await Running.start(false);
    const table = (await running.ask('POST', '/api/tables?name=Secretly', CSV)).body['id'] as number;
    await running.find(table, 'umbr', ['Thing']);
    await running.ask('POST', `/api/tables/${table}/changes`, {
      key: 'watched-1-one',
      kind: 'edited',
      columns: ['Thing'],
      changed: [{ id: 1, was: ['umbrella'], now: ['lantern'] }],
    });
    expect((await running.ask('GET', '/api/health/live')).body).toEqual({ status: 'live' } as never);
    expect((await running.ask('GET', '/api/health/ready')).body['status']).toBe('ready' as never);
    const { type, body, status } = await running.ask('GET', '/api/metrics');
    expect([status, type]).toEqual([200, 'application/openmetrics-text']);
    const text = body['text'] as string;
    const samples = samplesOf(text);
    expect(samples.get(`usual_needle_table_rows{table="${table}"}`)).toBe(2);
    expect(samples.get('usual_needle_question_seconds_count{kind="search"}')).toBe(1);
    expect(samples.get('usual_needle_changes_total{kind="edited"}')).toBe(1);
    expect(samples.get('usual_needle_queue')).toBe(0);
    expect(samples.get('usual_needle_database_seconds')).toBeGreaterThan(0);
    expect(samples.get('usual_needle_thread_bytes{thread="0",of="heap"}')).toBeGreaterThan(1_000_000);
    expect(samples.get('usual_needle_request_seconds_count{method="POST",status="201"}')).toBe(1);
    expect(text).not.toMatch(/Secretly|umbr|lantern|Thing/);
    await running.end();
  });

  it('logs each request in one line with the id that its answer carries, and a slow question by its shape', async () => {
    const lines: string[] = [];
    const log = pino({ level: 'info' }, { write: (line: string) => void lines.push(line) });
    const running = await Running.start(false, undefined, { log });
    const table = (await running.ask('POST', '/api/tables?name=Secretly', CSV)).body['id'] as number;
    lines.length = 0;
    const { headers } = await running.find(table, 'sesame', ['Thing']);
    const told = lines.map((line) => JSON.parse(line) as Record<string, unknown>);
    expect(told).toEqual([
      jasmine.objectContaining({
        ...{ request: headers.get('request-id'), method: 'POST', status: 200, msg: 'answered' },
        path: `/api/tables/${table}/search`,
      }),
    ]);
    const slow = { question: { threaded: ['Thing'], strands: [{ verb: 'find' as const, text: 'sesame' }] } };
    const now = spyOn(performance, 'now').and.returnValues(0, 5_000);
    await running.server.threads.watch.over('search', table, slow as never, () => Promise.resolve(1));
    now.and.callThrough();
    const { msg, shape, ms } = JSON.parse(lines.at(-1)!) as Record<string, unknown>;
    expect([msg, ms, shape]).toEqual([
      'slow question',
      5_000,
      jasmine.objectContaining({ strands: [{ verb: 'find', letters: 6 }], columns: 1 }),
    ]);
    expect(lines.join('')).not.toMatch(/sesame|Secretly/);
    await running.end();
  });

  it('tells its numbers to who looks after all of it, and to their tokens', async () => {
    const running = await Running.start(false);
    const machine = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    const other = await comes(running, machine, { name: 'T. Kessel' });
    expect((await other.ask('GET', '/api/metrics')).status).toBe(403);
    expect((await running.ask('GET', '/api/metrics')).status).toBe(401);
    expect((await running.ask('GET', '/api/health/live')).status).toBe(200);
    const made = await machine.ask('POST', '/api/tokens', { name: 'Watching', kind: 'reads', days: 7 });
    const authorization = `Bearer ${made.body['token'] as string}`;
    expect((await running.ask('GET', '/api/metrics', undefined, { authorization })).status).toBe(200);
    await running.end();
  });
});
