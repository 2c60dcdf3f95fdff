import { throwError } from 'rxjs';
import { TestScheduler } from 'rxjs/testing';
import { latest, patiently } from './latest';

describe('streams of answers', () => {
  let scheduler: TestScheduler;
  beforeEach(() => (scheduler = new TestScheduler((actual, expected) => expect(actual).toEqual(expected))));

  it('never let a late answer replace a newer one', () => {
    scheduler.run(({ hot, cold, expectObservable, expectSubscriptions }) => {
      const slow = cold('    -----A|');
      const quick = cold('   -B|');
      const questions = hot('-a-b-----');
      const given = '        -^-!';
      const expected = '     ----y----';
      expectObservable(questions.pipe(latest((question) => (question === 'a' ? slow : quick)))).toBe(expected, {
        y: { question: 'b', answer: 'B' },
      });
      expectSubscriptions(slow.subscriptions).toBe(given);
    });
  });

  it('go on after an error', () => {
    scheduler.run(({ hot, cold, expectObservable }) => {
      const questions = hot('-a--b-');
      const expected = '     --x-y-';
      const broken = cold<string>('-#', {}, 'broken');
      const fine = cold('       B|');
      expectObservable(questions.pipe(latest((question) => (question === 'a' ? broken : fine)))).toBe(expected, {
        x: { question: 'a', error: 'broken' },
        y: { question: 'b', answer: 'B' },
      });
    });
  });

  it('try again while the server is away, more slowly each time, and not for ever', () => {
    scheduler.run(({ cold, expectObservable, flush }) => {
      let tries = 0;
      const away = throwError(() => ({ status: (tries++, 0) }));
      expectObservable(away.pipe(patiently(3, 100))).toBe('700ms #', {}, { status: 0 });
      expectObservable(cold('a|').pipe(patiently())).toBe('a|');
      flush();
      expect(tries).toBe(4);
    });
  });

  it('do not try again what was asked wrongly', () => {
    scheduler.run(({ expectObservable }) => {
      const refused = throwError(() => ({ status: 422 }));
      expectObservable(refused.pipe(patiently())).toBe('#', {}, { status: 422 });
    });
  });
});
