import { type SearchRequest, WHOLE_SCOPE } from '@usual-needle/contract';
import { answered, OVERTAKEN, type Bytes, type Outcome } from '@usual-needle/host';
import { SharedAnswers } from '../dist/threads/shared-answers.js';
import { Running } from './running.js';

const asking = (text: string, more: Partial<SearchRequest> = {}): SearchRequest => ({
  question: { threaded: ['Thing'], strands: [{ verb: 'find', text }] },
  ...more,
});
const bytes = (json: string): Bytes => new TextEncoder().encode(json);
const whole = (text: string): Outcome<Bytes> => answered(bytes(`{"rows":["${text}"]}`));

describe('shared answers', () => {
  let shared: SharedAnswers;
  let worked: number;
  beforeEach(() => {
    shared = new SharedAnswers();
    worked = 0;
  });
  const ask = (request: SearchRequest, answer: Outcome<Bytes> = whole('a'), scope = WHOLE_SCOPE, table = 1) =>
    shared.of(scope, table, request, () => {
      worked++;
      return Promise.resolve(answer);
    });

  it('serve who asks the same, whoever it is and however long they wait', async () => {
    await ask(asking('hat', { session: 'a', turn: 1, patience: 40 }));
    expect(await ask(asking('hat', { session: 'b', turn: 9 }))).toEqual(whole('a'));
    expect(await Promise.all([ask(asking('cap')), ask(asking('cap', { session: 'c' }))])).toEqual([
      whole('a'),
      whole('a'),
    ]);
    expect([worked, shared.hits, shared.misses]).toEqual([2, 2, 2]);
  });

  const others: [what: string, again: () => Promise<unknown>][] = [
    ['another text', () => ask(asking('hats'))],
    ['other rows', () => ask(asking('hat', { offset: 60 }))],
    ['other columns', () => ask(asking('hat', { columns: ['Thing'] }))],
    ['rows that stay', () => ask(asking('hat', { stays: [{ id: 1, index: 0 }] }))],
    ['another table', () => ask(asking('hat'), whole('a'), WHOLE_SCOPE, 2)],
    ['another scope', () => ask(asking('hat'), whole('a'), { ...WHOLE_SCOPE, visible: ['Thing'] })],
    ['a table that has changed', () => (shared.changed(1), ask(asking('hat')))],
  ];
  for (const [what, again] of others)
    it(`are not for ${what}`, async () => {
      await ask(asking('hat'));
      await again();
      expect(worked).toBe(2);
    });

  it('are not of searches that were overtaken or not complete, nor of a moment that is over', async () => {
    await ask(asking('hat'), OVERTAKEN);
    await ask(asking('hat'), answered(bytes('{"rows":[]}'), false));
    expect(worked).toBe(2);
    let end!: (outcome: Outcome<Bytes>) => void;
    const slow = shared.of(WHOLE_SCOPE, 1, asking('cap'), () => new Promise<Outcome<Bytes>>((done) => (end = done)));
    shared.changed(1);
    end(whole('old'));
    expect(await slow).toEqual(whole('old'));
    expect(await ask(asking('cap'), whole('new'))).toEqual(whole('new'));
  });

  it('let nobody down where the one who asked first is', async () => {
    let end!: (error: Error) => void;
    const failing = shared.of(
      WHOLE_SCOPE,
      1,
      asking('hat'),
      () => new Promise<Outcome<Bytes>>((_, fail) => (end = fail)),
    );
    const other = ask(asking('hat'));
    end(new Error('gone'));
    await expectAsync(failing).toBeRejectedWithError('gone');
    expect(await other).toEqual(whole('a'));
  });
});

describe('shared answers of a server', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());
  const broughtIn = async (name: string, csv: string): Promise<number> =>
    (await running.ask('POST', `/api/tables?name=${name}`, csv)).body['id'];
  const matched = async (table: number, text: string, column: string): Promise<number> =>
    (await running.find(table, text, [column])).body['matched'];
  let keys = 0;
  const edit = (table: number, column: string, now: string) =>
    running.ask('POST', `/api/tables/${table}/changes`, {
      key: `shared-answers-${keys++}`,
      kind: 'edited',
      columns: [column],
      changed: [{ id: 1, was: [null], now: [now] }],
    });

  it('are true after each change, of the table and of one that lends to it', async () => {
    const stops = await broughtIn('Stops', 'Name,Town\nQuay,Oakham\n');
    const items = await broughtIn('Items', 'Thing,At\nhat,quay\ncap,quay\n');
    const borrow = { table: stops, key: 'At', matches: 'Name', columns: [{ column: 'Town' }] };
    await running.ask('POST', `/api/tables/${items}/columns`, { borrow }, { 'if-match': '*' });
    const { shared } = running.server.threads;
    for (const town of ['Aspby', 'Elmsworth', 'Aspby', 'Oakham']) {
      await edit(stops, 'Town', town);
      for (let i = 0; i < 2; i++) expect(await matched(items, town, 'Town')).toBe(2);
      expect(await matched(items, 'nowhere', 'Town')).toBe(0);
    }
    expect(shared.hits).toBe(4);
    await edit(items, 'Thing', 'glove');
    expect(await matched(items, 'glove', 'Thing')).toBe(1);
    expect(await matched(items, 'hat', 'Thing')).toBe(0);
  });
});
