import type { FileChoices } from '@usual-needle/contract';
import { LookThrough, readFile, type Look } from '@usual-needle/formats';
import fc from 'fast-check';
import { strToU8 } from 'fflate';
import { RowSet } from '../dist/row-set.js';
import { inPieces } from './files.js';

async function rowsOf(text: string, choices: FileChoices): Promise<string[]> {
  const file = await readFile(inPieces(strToU8(text), 50), { choices, hints: { name: 'a.csv' } });
  const rows: string[] = [];
  for await (const batch of file.batches) for (const row of batch.rows) rows.push(row.join('|'));
  return rows;
}

async function lookedThrough(text: string, choices: FileChoices = {}): Promise<LookThrough> {
  const through = new LookThrough(choices, { name: 'a.csv' });
  const steps = through.read(inPieces(strToU8(text), 50));
  while (!(await steps.next()).done);
  return through;
}
const told = (look: Look): unknown[] =>
  look.troubles.map(({ what, column, count, examples }) => [what, column, count, examples.map(({ text }) => text)]);

const FILE =
  'Title,Kind,Price,Lent on\n' +
  ' Harbour ,Non-fiction,"1.849,63 €",18.11.26\n' +
  'Lantern,Non-fiction,n/a,01.02.99\n' +
  'Lantern,Non fiction,"7,00 €",5.6.04\n' +
  'Kiosk,non-fiction,"12,50",31.12.26\n' +
  'Lantern,Non fiction,"7,00 €",5.6.04\n';

describe('a file is tidied while it is brought in', () => {
  const cases: [what: string, choices: FileChoices, rows: string[]][] = [
    [
      'not at all, if nothing is chosen',
      {},
      [' Harbour |Non-fiction|1.849,63 €|18.11.26', 'Lantern|Non-fiction|n/a|01.02.99'],
    ],
    ['of spaces around cells', { spaces: 'trim' }, ['Harbour|Non-fiction|1.849,63 €|18.11.26']],
    [
      'of words for no value, by column',
      { columns: [{}, {}, { noValue: 'blank' }] },
      [' Harbour |Non-fiction|1.849,63 €|18.11.26', 'Lantern|Non-fiction||01.02.99'],
    ],
    [
      'of years of two digits',
      { columns: [{}, {}, {}, { firstYear: 1927 }] },
      [' Harbour |Non-fiction|1.849,63 €|18.11.2026', 'Lantern|Non-fiction|n/a|01.02.1999'],
    ],
    [
      'of spellings, spaces around them or not',
      { columns: [{ instead: [['Harbour', 'Port']] }] },
      ['Port|Non-fiction|1.849,63 €|18.11.26'],
    ],
  ];
  for (const [what, choices, expected] of cases)
    it(what, async () => expect((await rowsOf(FILE, choices)).slice(0, expected.length)).toEqual(expected));

  it('of rows that have been before, as they are after all that', async () => {
    expect(await rowsOf(FILE, { repeated: 'leave out' })).toHaveSize(4);
    const alike = { instead: [['Non fiction', 'Non-fiction']] };
    const rows = await rowsOf('A,B\n1,Non fiction\n1,Non-fiction\n1,Non fiction \n', {
      repeated: 'leave out',
      spaces: 'trim',
      columns: [{}, alike as NonNullable<FileChoices['columns']>[number]],
    });
    expect(rows).toEqual(['1|Non-fiction']);
  });

  it('a row is known again, and no other is taken for it', () => {
    const cell = fc.stringMatching(/^[ab,]{0,3}$/);
    fc.assert(
      fc.property(fc.array(fc.array(cell, { maxLength: 3 }), { maxLength: 3_000 }), (rows) => {
        const [set, plain] = [new RowSet(), new Set<string>()];
        for (const row of rows) {
          const key = JSON.stringify(row);
          expect(set.add(row)).toBe(!plain.has(key));
          plain.add(key);
        }
      }),
      { numRuns: 100 },
    );
    const many = new RowSet();
    for (let i = 0; i < 200_000; i++) if (!many.add([String(i), ''])) fail(`row ${i} is taken for another`);
    for (let i = 0; i < 200_000; i += 777) expect(many.add([String(i), ''])).toBe(false);
  });
});

describe('what can be tidied is found, counted, and offered as a group', () => {
  it('of each sort', async () => {
    const look = (await lookedThrough(FILE)).look();
    expect(look.columns.map(({ column }) => column.kind)).toEqual(['text', 'text', 'number', 'text']);
    expect(told(look)).toEqual(
      jasmine.arrayWithExactContents([
        ['near same', 1, 3, ['Non fiction → Non-fiction', 'non-fiction → Non-fiction']],
        ['no value', 2, 1, ['n/a']],
        ['unit', 2, 3, ['€']],
        ['short years', 3, 5, ['18.11.26', '01.02.99', '5.6.04']],
        ['spaces', -1, 1, [' Harbour ']],
        ['repeated', -1, 1, ['Lantern · Non fiction · 7,00 € · 5.6.04']],
      ]),
    );
  });

  it('and shown as it will be, without reading the file anew', async () => {
    const through = await lookedThrough(FILE);
    const choices: FileChoices = {
      spaces: 'trim',
      columns: [{}, {}, { noValue: 'blank' }, { kind: 'date', dateOrder: 'day first', firstYear: 1927 }],
    };
    expect(through.asksToReadAnew(choices)).toBe(false);
    through.choose(choices);
    const [first, second] = through.rowsOf('first');
    expect(first.cells).toEqual(['Harbour', 'Non-fiction', '1.849,63 €', '18 Nov 2026']);
    expect([second.cells[2], second.cells[3], second.wrong] as unknown).toEqual(['', '1 Feb 1999', []]);
    const troubles = through.look().troubles.map(({ what, column }) => `${what} ${column}`);
    expect(troubles).toContain('century 3');
    expect(troubles).not.toContain('misfit 3');
  });

  it('of spellings no more than an address takes, whatever they are written in', async () => {
    const pairs = Array.from(
      { length: 300 },
      (_, i) => `Дом ${'я'.repeat(20)} x${i},b ${i}x\nДом-${'я'.repeat(20)} x${i},B-${i}x\n`,
    );
    const look = (await lookedThrough(`A,B\n${pairs.join('')}`)).look();
    const told = look.troubles.filter(({ what }) => what === 'near same').map(({ spellings }) => spellings!);
    const columns = told.map((instead) => ({ instead }));
    expect(told[0].length).toBeGreaterThan(5);
    expect(encodeURIComponent(JSON.stringify({ columns })).length).toBeLessThan(9_000);
    const short = (
      await lookedThrough(`A\n${Array.from({ length: 450 }, (_, i) => `a${i}\nA-${i}\n`).join('')}`)
    ).look();
    expect(short.troubles.find(({ what }) => what === 'near same')!.spellings!.length).toBe(200);
  });

  it('spellings that differ in more than signs, case and accents are not; nor are numbers and codes without letters', async () => {
    const look = (await lookedThrough('A,B\nRed,1-5\nRad,15\nC,1.5\nD,1/5\n')).look();
    expect(look.troubles.map(({ what }) => what)).toEqual([]);
  });
});
