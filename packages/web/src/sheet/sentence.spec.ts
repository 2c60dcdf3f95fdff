import { listed, sentence } from './sentence';

describe('the sentence', () => {
  const say = (more: object, columns = 4): string =>
    sentence({ format: 'usual-needle box', version: 1, ...more }, columns).map(({ text }) => text).join(''); // prettier-ignore

  it('states the whole definition', () => {
    expect(say({ threaded: ['Description', 'Marks', 'Finder’s note'] })).toBe(
      'Looks in Description, Marks and Finder’s note for every word, anywhere in the cell, ignoring case and accents. ' +
        'Shows only matching rows. With nothing typed it shows every row.',
    );
    expect(
      say({
        threaded: ['A'],
        need: 'any word',
        where: 'start of the cell',
        effect: 'leave matches out',
        case: 'respect',
      }),
    ).toBe(
      'Looks in A for any word, at the start of the cell, minding case, ignoring accents. ' +
        'Leaves matching rows out. With nothing typed it leaves nothing out.',
    );
    expect(say({ threaded: ['A', 'B', 'C', 'D'], where: 'whole word', effect: 'mark in place' })).toContain(
      'Looks in every column for every word, as a whole word',
    );
    expect(say({ threaded: [], nothingTyped: 'no row' })).toMatch(/^Looks in no column .* it shows no row\.$/);
  });

  it('lists names as people do', () => {
    expect([listed([]), listed(['A']), listed(['A', 'B']), listed(['A', 'B', 'C'])]).toEqual([
      '',
      'A',
      'A and B',
      'A, B and C',
    ]);
  });
});
