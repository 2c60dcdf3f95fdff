import type { Rhythm } from '@usual-needle/contract';
import { missedOf, nextOf, NoRhythm } from '../dist/sources/rhythm.js';

const night: Rhythm = { every: 'day', at: '02:30', zone: 'Europe/Berlin' };

describe('the rhythm of a source', () => {
  const cases: [what: string, rhythm: Rhythm, after: string, due: string | undefined, next: string][] = [
    ['every day', night, '2026-01-10T12:00Z', undefined, '2026-01-11T01:30:00.000Z'],
    ['every day, in summer', night, '2026-07-10T12:00Z', undefined, '2026-07-11T00:30:00.000Z'],
    [
      'a night without a 02:30: at 03:00, when clocks have jumped',
      night,
      '2026-03-28T12:00Z',
      undefined,
      '2026-03-29T01:00:00.000Z',
    ],
    ['the night after it', night, '2026-03-29T01:00Z', undefined, '2026-03-30T00:30:00.000Z'],
    ['a night with two of them: the first', night, '2026-10-24T12:00Z', undefined, '2026-10-25T00:30:00.000Z'],
    ['a night with two of them: not again', night, '2026-10-25T00:30Z', undefined, '2026-10-26T01:30:00.000Z'],
    [
      'a night with two of them: not again after a stop in between',
      night,
      '2026-10-25T00:45Z',
      undefined,
      '2026-10-26T01:30:00.000Z',
    ],
    [
      'every week on a Sunday',
      { every: 'week', day: 7, at: '06:00', zone: 'Etc/UTC' },
      '2026-12-01T08:00Z',
      undefined,
      '2026-12-06T06:00:00.000Z',
    ],
    [
      'every week on a Monday',
      { every: 'week', day: 1, at: '06:00', zone: 'Asia/Kathmandu' },
      '2026-12-01T08:00Z',
      undefined,
      '2026-12-07T00:15:00.000Z',
    ],
    [
      'minutes, from the last one on',
      { every: 'minutes', number: 15 },
      '2026-12-01T08:01Z',
      '2026-12-01T08:00Z',
      '2026-12-01T08:15:00.000Z',
    ],
    [
      'minutes, after a stop of hours: in step',
      { every: 'minutes', number: 15 },
      '2026-12-01T11:07Z',
      '2026-12-01T08:00Z',
      '2026-12-01T11:15:00.000Z',
    ],
    [
      'minutes, asked by hand before the next one',
      { every: 'minutes', number: 15 },
      '2026-12-01T08:05Z',
      '2026-12-01T08:10Z',
      '2026-12-01T08:10:00.000Z',
    ],
    [
      'minutes, after one that was tried again',
      { every: 'minutes', number: 15 },
      '2026-12-01T08:16Z',
      '2026-12-01T08:00Z',
      '2026-12-01T08:30:00.000Z',
    ],
    ['hours', { every: 'hours', number: 6 }, '2026-12-01T08:00Z', undefined, '2026-12-01T14:00:00.000Z'],
    [
      'when it changes: in five minutes',
      { every: 'change' },
      '2026-12-01T08:00Z',
      undefined,
      '2026-12-01T08:05:00.000Z',
    ],
  ];
  for (const [what, rhythm, after, due, next] of cases)
    it(what, () => expect(nextOf(rhythm, new Date(after), new Date(due ?? after)).toISOString()).toBe(next));

  it('counts what was missed', () => {
    const missed = (rhythm: Rhythm, due: string, now: string): number =>
      missedOf(rhythm, new Date(due), new Date(now), new Date(due));
    expect(missed(night, '2026-01-10T01:30Z', '2026-01-10T01:31Z')).toBe(0);
    expect(missed(night, '2026-01-10T01:30Z', '2026-01-13T08:00Z')).toBe(3);
    expect(missed({ every: 'minutes', number: 15 }, '2026-01-10T08:00Z', '2026-01-10T08:14Z')).toBe(0);
    expect(missed({ every: 'minutes', number: 15 }, '2026-01-10T08:00Z', '2026-01-10T09:00Z')).toBe(4);
    expect(missed({ every: 'change' }, '2026-01-10T08:00Z', '2026-02-10T09:00Z')).toBe(0);
  });

  it('has a time zone that there is', () => {
    expect(() => nextOf({ ...night, zone: 'Europe/Atlantis' }, new Date(), new Date())).toThrowError(
      NoRhythm,
      /no time zone/,
    );
  });
});
