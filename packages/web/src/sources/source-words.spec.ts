import type { Rhythm, Source, SourceTold } from '@usual-needle/contract';
import { lastWords, rhythmWords, sourceSentence, streakWords, zoneHere } from './source-words';

const zone = zoneHere();
const source = (more: Partial<Source> = {}): Source => ({
  from: { address: 'https://depot.example/found.csv', signIn: 'none' },
  rhythm: { every: 'day', at: '02:00', zone },
  ...{ key: ['Item no.'], gone: 'keep', most: 5 },
  ...more,
});
const said = (one: Source): string =>
  sourceSentence(one)
    .map(({ text }) => text)
    .join('');
const told = (more: object): SourceTold =>
  ({ source: source(), last: null, failures: 0, inARow: 0, ...more }) as SourceTold;
const last = (more: object): SourceTold => told({ last: { counts: null, why: null, missed: 0, ...more } });

describe('the words of a source', () => {
  const rhythms: [Rhythm, string][] = [
    [{ every: 'change' }, 'when it changes'],
    [{ every: 'minutes', number: 1 }, 'every minute'],
    [{ every: 'minutes', number: 15 }, 'every 15 minutes'],
    [{ every: 'hours', number: 6 }, 'every 6 hours'],
    [{ every: 'day', at: '02:00', zone }, 'every night at 02:00'],
    [{ every: 'day', at: '14:30', zone }, 'every day at 14:30'],
    [{ every: 'day', at: '14:30', zone: 'Asia/Kathmandu' }, 'every day at 14:30 (Asia/Kathmandu)'],
    [{ every: 'week', day: 7, at: '06:00', zone }, 'every Sunday at 06:00'],
  ];
  for (const [rhythm, words] of rhythms) it(words, () => expect(rhythmWords(rhythm)).toBe(words));

  it('are one sentence', () => {
    expect(said(source())).toBe(
      'Refreshes itself every night at 02:00 from depot.example/found.csv, matching rows by Item no.; rows that are gone stay; waits for me if more than 5 % would change.',
    );
    const query = source({ from: { connection: 'claims', query: 'select 1' }, gone: 'remove', most: null, key: [] });
    expect(said(query)).toBe(
      'Refreshes itself every night at 02:00 by a query on the claims database, matching rows by their places; rows that are gone go; however many would change.',
    );
    expect(said(source({ from: { file: 'stops.xlsx' } }))).toContain(' from stops.xlsx in the in-tray, ');
  });

  it('say what became of it the last time', () => {
    expect(lastWords(told({}))).toBe('It has not run yet.');
    expect(lastWords(last({ outcome: 'done', counts: { added: 38, changed: 112, gone: 0 } }))).toBe(
      'Last time 38 added, 112 changed.',
    );
    expect(lastWords(last({ outcome: 'same' }))).toBe('Last time nothing new.');
    expect(lastWords(last({ outcome: 'same', missed: 1 }))).toContain('stood for 1 more run');
    expect(
      lastWords({ ...last({ outcome: 'failed', why: 'depot.example did not answer in time' }), failures: 2 }),
    ).toBe('The last 2 runs failed: depot.example did not answer in time. It is tried again.');
    expect(streakWords(told({ inARow: 30 }))).toBe('30 nights');
    expect(streakWords(told({ inARow: 1, source: source({ rhythm: { every: 'minutes', number: 5 } }) }))).toBe('1 run');
  });
});
