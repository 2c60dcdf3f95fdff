import { errorWords, mayPass } from './error-words';

describe('what is said of a failed request', () => {
  const cases: [what: string, error: object, words: string, passes: boolean][] = [
    ['no answer', { status: 0 }, 'The server does not answer. What you typed is kept; the rows are from before.', true],
    ['no status', {}, 'The server does not answer. What you typed is kept; the rows are from before.', true],
    ['a table that is gone', { status: 404, error: { title: 'No' } }, 'This table is no longer there.', false],
    ['one that was put away', { status: 404, error: { title: 'No', detail: 'Put away.' } }, 'Put away.', false],
    ['a clash', { status: 412, error: { title: 'It was changed' } }, 'It was changed', false],
    ['a server that starts', { status: 503, error: { title: 'It starts', detail: 'Wait.' } }, 'It starts. Wait.', true],
    ['a server in trouble', { status: 500, error: null }, 'Something went wrong on the server.', true],
  ];
  for (const [what, error, words, passes] of cases)
    it(`${what}: ${words}`, () => expect([errorWords(error), mayPass(error)]).toEqual([words, passes]));

  it('of rows that are on show says of when they are', () => {
    expect(errorWords({ status: 0 }, new Date(2026, 10, 30, 10, 42))).toBe(
      'The server does not answer. What you typed is kept; these are the rows of 10:42.',
    );
  });
});
