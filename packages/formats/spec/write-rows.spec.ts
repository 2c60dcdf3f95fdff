import fc from 'fast-check';
import { readSheet } from 'read-excel-file/node';
import * as otherReader from 'xlsx';
import type { Column, TakeOutForm, TakenRow, Writing } from '@usual-needle/contract';
import { misfitOf, safeCell, WRITERS, type Taken } from '@usual-needle/formats';
import { readOut } from './files.js';

const COLUMNS: Column[] = [
  { name: 'Item', kind: 'text' },
  { name: 'Weight', kind: 'number', shown: { number: { decimals: 2, grouping: true } } },
  { name: 'Found on', kind: 'date', shown: { date: 'd MMM yyyy' } },
];

async function* batches(rows: readonly TakenRow[], size = 2): AsyncGenerator<readonly TakenRow[]> {
  await Promise.resolve();
  for (let at = 0; at < rows.length; at += size) yield rows.slice(at, at + size);
}

const rowsOf = (cells: readonly (readonly string[])[]): TakenRow[] =>
  cells.map((one, i) => ({ id: i + 1, cells: one }));

async function written(
  form: TakeOutForm,
  rows: readonly TakenRow[],
  writing: Writing = {},
  taken: Taken = { columns: COLUMNS },
): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  for await (const part of WRITERS[form](taken, batches(rows), writing)) parts.push(Buffer.from(part));
  return Buffer.concat(parts);
}

const textOf = async (...asked: Parameters<typeof written>): Promise<string> => (await written(...asked)).toString();

/** Cells that have broken files before. */
const HOSTILE = [
  '=1+1',
  '+SUM(A1)',
  '-cmd',
  '@now',
  '\tx',
  'a\r\nb',
  'a\nb',
  ' led by a space ',
  '"quoted", and comma; semicolon',
  '</script><!-- \u2028 & ]]>',
  '🧤 gloves é e\u0301',
  '_x0041_',
  'a\u0001b\u000bc\ufffe',
  '007',
  '1e5',
  'TRUE',
  '#N/A',
  "'quoted",
  '12345678901234567890',
  '',
];

describe('cells that are safe to open', () => {
  const cases: [cell: string, safe: string][] = [
    ['=1+1', "'=1+1"],
    ['+49 30 1234', "'+49 30 1234"],
    ['-x', "'-x"],
    ['@a', "'@a"],
    ['\t=1', "'\t=1"],
    ['\r=1', "'\r=1"],
    ['\n=1', "'\n=1"],
    ['＝1', "'＝1"],
    ['-12.50', '-12.50'],
    ['+3', '+3'],
    ['-1.849,63', '-1.849,63'],
    ['-1e5', '-1e5'],
    ['-1-2', "'-1-2"],
    ['a=b', 'a=b'],
    ['', ''],
  ];
  for (const [cell, safe] of cases) it(JSON.stringify(cell), () => expect(safeCell(cell)).toBe(safe));

  it('are so in the header, too, and only where it is asked', async () => {
    const taken = { columns: [{ name: '=Item', kind: 'text' }] as Column[] };
    expect(await textOf('csv', rowsOf([['=1']]), { safe: true }, taken)).toBe("'=Item\r\n'=1\r\n");
    expect(await textOf('csv', rowsOf([['=1']]), {}, taken)).toBe('=Item\r\n=1\r\n');
  });
});

describe('rows that are written', () => {
  const hostile = rowsOf(HOSTILE.map((cell) => [cell, '', '']));

  it('as CSV, by the settings', async () => {
    const rows = rowsOf([['umbrella; blue', '1,5', '2026-11-18']]);
    expect(await textOf('csv', rows)).toBe('Item,Weight,Found on\r\numbrella; blue,"1,5",2026-11-18\r\n');
    expect(await textOf('csv', rows, { header: false, delimiter: 'semicolon', mark: true })).toBe(
      '\ufeff"umbrella; blue";1,5;2026-11-18\r\n',
    );
  });

  it('as CSV that is read back as it was, whatever is in it', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.oneof(fc.constantFrom(...HOSTILE), fc.string()), fc.string(), fc.string()), {
          minLength: 1,
        }),
        async (cells) => {
          const clean = cells.map((row) => row.map((cell) => cell.replaceAll('\0', '')));
          const bytes = await written('csv', rowsOf(clean));
          const { rows } = await readOut(bytes, {
            hints: { name: 'rows.csv' },
            choices: { delimiter: ',', header: true },
          });
          expect(rows).toEqual(clean);
        },
      ),
      { numRuns: 200 },
    );
  });

  it('as JSON and NDJSON, with what is shown and marks where they are wanted', async () => {
    const row: TakenRow = {
      id: 7,
      cells: ['hat', '1500', '2026-11-18'],
      marks: [
        [0, 0, 3, 1],
        [2, 3, 6, 2],
      ],
    };
    const told = { row: 7, cells: { Item: 'hat', Weight: '1500', 'Found on': '2026-11-18' } };
    const whole = {
      ...told,
      shown: { Weight: '1,500.00', 'Found on': '18 Nov 2026' },
      marks: [
        ['Item', 0, 3, 1],
        ['Found on', 3, 6, 2],
      ],
    };
    expect(JSON.parse(await textOf('ndjson', [row]))).toEqual(whole);
    const facts = {
      change: 3,
      rows: 1,
      total: 9,
      matched: 2,
      shown: 1,
      keywords: [{ number: 1, text: 'hat', rows: 2 }],
    };
    const taken = { columns: COLUMNS, ...facts, longest: [3, 4, 10] };
    expect(JSON.parse(await textOf('json', [row], {}, taken))).toEqual({ ...facts, columns: COLUMNS, list: [whole] });
    expect(JSON.parse(await textOf('ndjson', [{ id: row.id, cells: row.cells }]))).toEqual(told);
    expect(JSON.parse(await textOf('json', []))).toEqual({ columns: COLUMNS, list: [] });
  });

  it('as JSON that is read back as it was, whatever is in it and whatever columns are called', async () => {
    const columns: Column[] = ['__proto__', 'constructor', '"', '\u2028'].map((name) => ({ name, kind: 'text' }));
    const rows = rowsOf(HOSTILE.map((cell) => [cell, cell, cell, cell]));
    const { list } = JSON.parse(await textOf('json', rows, {}, { columns })) as { list: { cells: object }[] };
    expect(list.map(({ cells }) => Object.entries(cells))).toEqual(
      rows.map(({ cells }) => columns.map(({ name }, i) => [name, cells[i]])),
    );
  });

  it('as a spreadsheet file that two other readers read alike, numbers and dates as such', async () => {
    const rows = rowsOf([
      ['hat', '1500.5', '2026-11-18'],
      ['cap', '-3', '1900-02-28'],
      ['bag', 'heavy', 'soon'],
      ['pen', '12345678901234567890', '1900-03-01'],
      ...hostile.map(({ cells }) => cells),
    ]);
    const bytes = await written(
      'xlsx',
      rows,
      {},
      { columns: COLUMNS, name: "Front desk: 'look-up' [1]/2 of a long name" },
    );
    // XML has no letter for most control signs; readers differ in how they undo the escape of ECMA-376 for them.
    const seen = (cell: string): string => cell.replace(/\r\n/g, '\n');
    const one = (await readSheet(bytes, { trim: false })).map((row): unknown[] => row.map((cell) => cell ?? ''));
    expect(one[0]).toEqual(COLUMNS.map(({ name }) => name));
    expect(one[1]).toEqual(['hat', 1500.5, new Date('2026-11-18')]);
    expect(one[2]).toEqual(['cap', -3, '1900-02-28']);
    expect(one[3]).toEqual(['bag', 'heavy', 'soon']);
    expect(one[4]).toEqual(['pen', '12345678901234567890', new Date('1900-03-01')]);
    const book = otherReader.read(bytes, { cellDates: true, cellFormula: true });
    const sheet = book.Sheets[book.SheetNames[0]];
    const two = otherReader.utils.sheet_to_json<unknown[]>(sheet, {
      header: 1,
      defval: '',
      raw: true,
      blankrows: true,
    });
    expect(Object.values(sheet).some((cell) => (cell as { f?: string }).f !== undefined)).toBe(false);
    expect(two.slice(1, 3).map((row) => row.slice(0, 2))).toEqual([
      ['hat', 1500.5],
      ['cap', -3],
    ]);
    HOSTILE.forEach((cell, i) => {
      for (const read of [one, two])
        expect(seen(String(read[i + 5]?.[0] ?? '')))
          .withContext(JSON.stringify(cell))
          .toBe(seen(cell));
    });
  });

  it('as a spreadsheet file with hits in bold', async () => {
    const row: TakenRow = {
      id: 1,
      cells: ['umbrella, wooden', '2', ''],
      marks: [
        [0, 0, 4, 1],
        [0, 2, 6, 2],
        [0, 10, 14, 2],
      ],
    };
    const bytes = await written('xlsx', [row], { marks: true });
    const book = otherReader.read(bytes, { cellHTML: true });
    const sheet = book.Sheets[book.SheetNames[0]];
    expect((sheet['A2'] as { v: string }).v).toBe('umbrella, wooden');
    expect((await readSheet(bytes, { trim: false }))[1]).toEqual(['umbrella, wooden', 2, null]);
    const { rows } = await readOut(bytes, { hints: { name: 'rows.xlsx' } });
    expect(rows[0][0]).toBe('umbrella, wooden');
    expect(JSON.stringify(sheet['A2'])).toContain('<b>');
  });

  const misfits: [what: string, form: TakeOutForm, taken: Partial<Taken>, marks: boolean, says: RegExp | undefined][] =
    [
      [
        'too many rows for a spreadsheet file',
        'xlsx',
        { rows: 1_048_576 },
        false,
        /1,048,575 rows at most; these are 1,048,576.*as CSV/,
      ],
      ['as many rows as one has', 'xlsx', { rows: 1_048_575 }, false, undefined],
      ['too long a cell', 'xlsx', { rows: 1, longest: [9, 40_000, 0] }, false, /one of “Weight” has 40,000/],
      ['too many rows for bold hits', 'xlsx', { rows: 20_001 }, true, /without marks/],
      ['too many rows for a page', 'page', { rows: 20_001 }, true, /20,000 rows at most/],
      ['any number of rows as CSV', 'csv', { rows: 2_000_000 }, true, undefined],
    ];
  for (const [what, form, taken, marks, says] of misfits)
    it(`are looked at before: ${what}`, () => {
      const why = misfitOf(form, { columns: COLUMNS, ...taken }, marks);
      if (says) expect(why).toMatch(says);
      else expect(why).toBeUndefined();
    });

  it('as a page of which nothing is run, with marks and each column once', async () => {
    const cells = HOSTILE.map((cell) => [`<img src=x onerror=alert(1)>${cell}`, '1500', '']);
    const rows = cells.map((one, i): TakenRow => ({
      id: i + 1,
      cells: one,
      marks: [
        [0, 1, 4, 1],
        [1, 0, 5, 9],
      ],
    }));
    const taken = {
      columns: COLUMNS,
      name: '<b>',
      sentence: 'a & b',
      typed: '"<i>"',
      who: 'Kessel',
      at: '1 Dec',
      rows: 2,
      total: 9,
    };
    const html = await textOf('page', rows, {}, taken);
    expect(html).not.toMatch(/<(img|script|b>|i>)/);
    expect(html).toContain('&lt;<mark class="k1">img</mark> src=x onerror=alert(1)&gt;');
    expect(html).toContain('<td class="number short"><mark class="k3">1,500</mark>.00</td>');
    expect(html.match(/<thead>/g)?.length).toBe(1);
    expect(html).toContain('2 rows of 9 · 1 Dec · Kessel');
  });
});
