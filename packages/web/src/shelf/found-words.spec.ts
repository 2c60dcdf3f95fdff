import { type FoundInAll, foundWords } from './found-words';

const FOUND: FoundInAll = { told: true, rows: 1_204, tables: 2, complete: true, failed: 0, problem: '' };

describe('what the shelf says is found', () => {
  const cases: [string, Partial<FoundInAll>, string][] = [
    ['all that is asked has answered', {}, '1,204 rows in 2 tables · every row searched'],
    ['one row', { rows: 1, tables: 1 }, '1 row in 1 table · every row searched'],
    ['some are still asked', { complete: false }, '1,204 rows in 2 tables · still searching'],
    ['no row', { rows: 0, tables: 0 }, 'nothing found · every row searched'],
    ['some could not be asked', { failed: 3, complete: false }, '1,204 rows in 2 tables · 3 could not be asked'],
    ['none could', { told: false, rows: 0, tables: 0, failed: 2 }, 'nothing found · 2 could not be asked'],
    ['nothing is told yet', { told: false, complete: false }, 'still searching'],
    ['there is nothing to ask', { told: false }, ''],
    ['the text cannot be read', { problem: 'The bracket is not closed.' }, 'The bracket is not closed.'],
  ];
  for (const [what, some, words] of cases)
    it(`where ${what}`, () => expect(foundWords({ ...FOUND, ...some })).toBe(words));

  it('with nothing typed is nothing', () => expect(foundWords(undefined)).toBe(''));
});
