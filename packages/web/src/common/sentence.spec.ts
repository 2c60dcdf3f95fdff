import type { Box } from '@usual-needle/contract';
import { CHOICES, chosen, listed, sentence } from './sentence';

const BOX: Box = { format: 'usual-needle box', version: 1 };

describe('the sentence', () => {
  const say = (more: Partial<Box>, columns = 4): string =>
    sentence({ ...BOX, ...more }, columns)
      .map(({ text }) => text)
      .join('');

  it('states the whole definition', () => {
    expect(say({ threaded: ['Description', 'Marks', 'Finder’s note'] })).toBe(
      'Looks in Description, Marks and Finder’s note for every word, anywhere in the cell, ignoring case and accents. ' +
        'Shows only matching rows. With nothing typed it shows every row. Searches at each keystroke, shows every column.',
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
        'Leaves matching rows out. With nothing typed it leaves nothing out and shows every row. Searches at each keystroke, shows every column.',
    );
  });

  it('of a pattern says nothing of words, nor where in the cell; what is typed as one is one', () => {
    expect(say({ threaded: ['A'], strands: [{ verb: 'find', text: '', reading: 'pattern' }] })).toContain(
      'Looks in A for the pattern that is typed, ignoring case and accents. ',
    );
    expect(say({ threaded: ['A'], reading: 'plain text', where: 'whole cell' })).toContain(
      'Looks in A for the plain text typed, as one, as a whole cell, ignoring',
    );
  });

  it('reads as English in every combination, each with a sentence of its own', () => {
    const said = new Set<string>();
    let count = 0;
    for (const places of [{}, { threaded: ['A'] }, { threaded: ['A', 'B'] }, { everyColumn: true }]) {
      for (const need of CHOICES.need) {
        for (const where of CHOICES.where) {
          for (const care of CHOICES.care) {
            for (const effect of CHOICES.effect) {
              for (const nothing of CHOICES.nothingTyped) {
                for (const searches of CHOICES.searches) {
                  for (const rest of [
                    {},
                    { columns: [{ name: 'A' }, { name: 'B' }] },
                    ...CHOICES.edited.map(({ change }) => ({
                      ...change,
                      sort: [{ column: 'A', direction: 'up' as const }],
                    })),
                  ]) {
                    const box = {
                      ...places,
                      ...need.change,
                      ...where.change,
                      ...care.change,
                      ...effect.change,
                      ...nothing.change,
                      ...searches.change,
                      ...rest,
                    };
                    const text = say(box);
                    expect(text).toMatch(
                      /^Looks in (no column|every column|A( and B)?) for (every|any) word, (anywhere in the cell|at the (start|end) of (a word|the cell)|as a whole (word|cell)), (ignoring|minding) case(, (ignoring|minding))?( and)? accents\. (Shows only matching rows|Marks matching (cells|rows) in place|Leaves matching rows out)\. With nothing typed it ((marks nothing and |leaves nothing out and )?shows (every|no) row)\. Searches (at each keystroke|after a pause|on Enter), shows (every column|2 of 4 columns)(; an edited row (moves to its place|stays put until sorted anew))?\.$/,
                    );
                    for (const sets of ['need', 'where', 'care', 'effect', 'nothingTyped'] as const)
                      expect(text).toContain(chosen({ ...BOX, ...box }, sets).text);
                    said.add(text);
                    count++;
                  }
                }
              }
            }
          }
        }
      }
    }
    expect(said.size).toBe(count);
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
