import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createRequire } from 'node:module';
import { gzipSync, strToU8, zipSync } from 'fflate';
import fc from 'fast-check';
import { csvLine, type ReadOptions } from '@usual-needle/formats';
import { gzip, ods, readOut, refusal, xlsx } from './files.js';

const LENIENT: ReadOptions = { choices: { tooMany: 'join', tooFew: 'fill', unkeepable: 'mend' } };
const latin = (text: string): Uint8Array => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const utf16 = (text: string, big: boolean): Uint8Array => {
  const bytes = Uint8Array.from(Buffer.from(text, 'utf16le'));
  return big ? Uint8Array.from(Buffer.from(bytes).swap16()) : bytes;
};

describe('a file is taken for what it is', () => {
  const cases: [what: string, bytes: Uint8Array | string, format: string, rows: string[][], options?: ReadOptions][] = [
    ['CSV', 'A,B\n1,2\n', 'csv', [['1', '2']]],
    ['semicolons', 'A;B\n1;2\n', 'csv', [['1', '2']]],
    ['any sign, where it is said', 'A^B\n1^2,3\n', 'csv', [['1', '2,3']], { choices: { delimiter: '^' } }],
    ['cells pasted from a sheet', 'A\tB\n"two\nlines"\t"a ""quote"""\n', 'csv', [['two\nlines', 'a "quote"']]],
    [
      'an array of objects',
      '[{"A":1,"B":"x"},{"B":null,"A":2.50}]',
      'json',
      [
        ['1', 'x'],
        ['2.50', ''],
      ],
    ],
    [
      'an array of arrays',
      '[["A","B"],[1,true],["y",[1,{"z":2}]]]',
      'json',
      [
        ['1', 'true'],
        ['y', '[1,{"z":2}]'],
      ],
    ],
    [
      'an object a line',
      '{"A":12345678901234567890}\n{"A":"b","C":"late"}\n',
      'ndjson',
      [
        ['12345678901234567890', ''],
        ['b', 'late'],
      ],
    ],
    [
      'an array a line',
      '["A","B"]\n[1,2]\n[3,4]',
      'ndjson',
      [
        ['1', '2'],
        ['3', '4'],
      ],
    ],
    ['CSV that looks like JSON', '{"A"\n1\n', 'csv', [['1']], { hints: { type: 'text/csv' } }],
    ['gzip', gzip('A,B\n1,2\n'), 'csv', [['1', '2']]],
    ['two gzips, one after the other', Uint8Array.from([...gzip('A,B\n'), ...gzip('1,2\n')]), 'csv', [['1', '2']]],
    [
      'a workbook',
      xlsx([
        ['A', 'B'],
        ['1', ''],
        ['', 'x'],
      ]),
      'xlsx',
      [
        ['1', ''],
        ['', 'x'],
      ],
    ],
    ['another of its sheets', xlsx([['A']]), 'xlsx', [['two parts']], { choices: { sheet: 'Second' } }],
  ];
  for (const [what, bytes, format, rows, options] of cases) {
    it(`${what}: ${format}`, async () => {
      for (const size of [1, 7, 100_000]) {
        const out = await readOut(bytes, options, size);
        expect([out.found.format, out.rows] as unknown).toEqual([format, rows]);
      }
    });
  }

  it('tells the line that each row starts on', async () => {
    const { lines, rows } = await readOut('\nA,B\n1,2\n\n"a\nb",3\n4,5\n');
    expect(rows.length).toBe(3);
    expect(lines).toEqual([3, 5, 7]);
  });

  it('reads a file without a header, where that is said or seen', async () => {
    const said = await readOut('1,2\n3,4\n', { choices: { header: false } });
    expect([said.columns, said.rows.length] as unknown).toEqual([['Column 1', 'Column 2'], 2]);
    const seen = await readOut('LP-1,2026-01-02\nLP-2,2026-01-03\n');
    expect([seen.found.header, seen.rows.length]).toEqual([false, 2]);
    expect((await readOut('Item,Found\nLP-2,2026-01-03\n')).found.header).toBeTrue();
  });
});

describe('a first row is a header wherever it is read, but where it goes on as the rows after it do', () => {
  const cases: [what: string, text: string, header: boolean][] = [
    ['a column called No', 'No,Thing\n1,hat\n2,cap\n', true],
    ['columns called by years', 'City,2022,2023,2024\nBergen,10,12,13\nOslo,9,8,7\n', true],
    ['years over years', '2022,2023\n2024,2025\n', false],
    ['dates and numbers from the first row on', '2026-01-02,5\n2026-01-03,7\n', false],
    ['names over text', 'Item,Thing\nLP-1,hat\n', true],
    ['nothing but a header', '1,2\n', true],
    ['yes over answers', 'Kept,Yes\nhat,no\ncap,yes\n', false],
  ];
  for (const [what, text, header] of cases)
    it(what, async () => expect((await readOut(text)).found.header).toBe(header));
});

describe('bytes are read in the encoding that they are in', () => {
  const text = 'A,B\nBrückl,Søndre\n';
  const euro = 'A\n5 €\n';
  const cases: [encoding: string, bytes: Uint8Array, rows: string[][], choices?: ReadOptions['choices']][] = [
    ['utf-8', strToU8(text), [['Brückl', 'Søndre']]],
    ['utf-8', strToU8('\ufeff' + text), [['Brückl', 'Søndre']]],
    ['utf-16le', utf16('\ufeff' + text, false), [['Brückl', 'Søndre']]],
    ['utf-16be', utf16('\ufeff' + text, true), [['Brückl', 'Søndre']]],
    ['utf-16le', utf16(text, false), [['Brückl', 'Søndre']]],
    ['utf-16be', utf16(text, true), [['Brückl', 'Søndre']]],
    ['windows-1252', latin(text), [['Brückl', 'Søndre']]],
    ['windows-1252', Uint8Array.from([...latin('A\n5 '), 0x80, 10]), [['5 €']]],
    ['iso-8859-15', Uint8Array.from([...latin('A\n5 '), 0xa4, 10]), [['5 €']], { encoding: 'iso-8859-15' }],
    ['iso-8859-1', latin('A\n\u0085\u00a4\n'), [['\u0085\u00a4']], { encoding: 'iso-8859-1' }],
    ['utf-8', strToU8(euro), [['5 €']]],
  ];
  for (const [encoding, bytes, rows, choices] of cases) {
    it(`${encoding}: ${JSON.stringify(rows)}`, async () => {
      for (const size of [1, 2, 3, 1000]) {
        const out = await readOut(bytes, { choices }, size);
        expect([out.found.encoding, out.columns[0], out.rows] as unknown).toEqual([encoding, 'A', rows]);
      }
    });
  }

  it('is found from the whole file, not from its beginning', async () => {
    const long = latin(`A\n${'plain\n'.repeat(50_000)}Br\u00fcckl\n`);
    const out = await readOut(long, {}, 10_000);
    expect([out.found.encoding, out.rows.at(-1)] as unknown).toEqual(['windows-1252', ['Brückl']]);
  });

  it('says where a file of UTF-8 is not, or mends it', async () => {
    const bytes = Uint8Array.from([...strToU8('A\nBrückl\n'), 0xfc, 10]);
    expect(await refusal(bytes)).toEqual([jasmine.stringContaining('not UTF-8, first at line 3') as never, 3]);
    const { rows, notes } = await readOut(bytes, LENIENT);
    expect([rows.at(-1), notes.map(({ what, line }) => [what, line])] as unknown).toEqual([['\ufffd'], [['bytes', 3]]]);
  });
});

describe('a workbook gives the text that a person sees in it', () => {
  it('by its formats: dates, per cents, money, and numbers as they are', async () => {
    const formats = ['dd.mm.yyyy', '0.0%', '#,##0.00', 'yyyy-mm-dd hh:mm'];
    const cells = [
      { n: 46344, style: 2 },
      { n: 0.125, style: 3 },
      { n: 1250.5, style: 4 },
      { n: 46344.5, style: 5 },
      { n: 46344, style: 1 },
      { n: '0.30000000000000004' },
      { n: 12345678 },
    ];
    const { rows } = await readOut(xlsx([['A', 'B', 'C', 'D', 'E', 'F', 'G'], cells], formats));
    expect(rows).toEqual([['18.11.2026', '12.5%', '1,250.50', '2026-11-18 12:00', '2026-11-18', '0.3', '12345678']]);
  });

  it('and not a million rows of nothing but formats', async () => {
    const blank = Array.from({ length: 200_000 }, (_, i) => `<row r="${i + 3}"><c r="A${i + 3}" s="1"/></row>`).join(
      '',
    );
    const { rows } = await readOut(xlsx([['A'], ['x']], [], blank));
    expect(rows).toEqual([['x']]);
  });

  it('of an OpenDocument sheet: repeated, of several lines, and without its notes', async () => {
    const rows = `<table:table-row><table:table-cell><text:p>A</text:p></table:table-cell><table:table-cell><text:p>B</text:p></table:table-cell><table:table-cell table:number-columns-repeated="16000"/></table:table-row>
      <table:table-row table:number-rows-repeated="2"><table:table-cell table:number-columns-repeated="2"><text:p>x<text:s text:c="2"/>y</text:p><text:p>z</text:p><office:annotation><text:p>a note</text:p></office:annotation></table:table-cell></table:table-row>
      <table:table-row table:number-rows-repeated="1000000"><table:table-cell/></table:table-row>`;
    const out = await readOut(ods(rows));
    expect(out.found.format).toBe('ods');
    expect(out.rows).toEqual([
      ['x  y\nz', 'x  y\nz'],
      ['x  y\nz', 'x  y\nz'],
    ]);
  });
});

describe('what does not fit is refused by its line, or mended as chosen', () => {
  const text = 'A,B\n1,2,3\n4\n5,6\n';
  it('refused', async () => {
    expect(await refusal(text)).toEqual(['Line 2 has 3 cells; the header has 2.', 2]);
    expect(await refusal('A,A\n')).toEqual(['Two columns are named “A”.', 1]);
    expect(await refusal('A\n\0\n')).toEqual(['A cell of line 2 holds a NUL character.', 2]);
  });
  const mends: [choices: ReadOptions['choices'], rows: string[][]][] = [
    [
      { tooMany: 'join', tooFew: 'fill' },
      [
        ['1', '2,3'],
        ['4', ''],
        ['5', '6'],
      ],
    ],
    [
      { tooMany: 'drop', tooFew: 'leave out' },
      [
        ['1', '2'],
        ['5', '6'],
      ],
    ],
    [
      { tooMany: 'leave out', tooFew: 'fill' },
      [
        ['4', ''],
        ['5', '6'],
      ],
    ],
  ];
  for (const [choices, rows] of mends)
    it(JSON.stringify(choices), async () => {
      const out = await readOut(text, { choices });
      expect(out.rows).toEqual(rows);
      expect(out.notes.map(({ what, line }) => [what, line])).toEqual([
        ['tooMany', 2],
        ['tooFew', 3],
      ]);
    });

  it('names, NUL and halves of letters are mended, and told', async () => {
    const bytes = Uint8Array.from(
      Buffer.from(
        JSON.stringify([
          ['A', '', 'A'],
          ['x\0y', '\ud800z', 'w'.repeat(100_001)],
        ]),
      ),
    );
    const out = await readOut(bytes, LENIENT);
    expect(out.columns).toEqual(['A', 'Column 2', 'A 2']);
    expect(out.rows[0].slice(0, 2)).toEqual(['xy', '\ufffdz']);
    expect(out.rows[0][2].length).toBe(100_000);
    expect(new Set(out.notes.map(({ what }) => what))).toEqual(new Set(['header', 'nul', 'half letter', 'tooLong']));
  });
});

describe('a hostile file ends in a clear sentence', () => {
  const zeros = new Uint8Array(64 * 1024 * 1024);
  const cases: [what: string, bytes: () => Uint8Array | string, says: RegExp, options?: ReadOptions][] = [
    ['an empty file', () => '', /is empty/],
    ['nothing but lines', () => '\n\n\n', /is empty/],
    ['100,000 columns', () => `${'a,'.repeat(100_000)}b\n`, /100001 columns; a table takes 500/],
    ['a line that does not end', () => `A\n${'x'.repeat(9 * 1024 * 1024)}`, /line 2 is longer than 8388608 characters/],
    ['JSON nested deep', () => '['.repeat(100_000), /more than 64 deep/],
    ['JSON that ends too soon', () => '[{"A":1},', /cut short/],
    ['JSON that is none', () => '[{"A":1},{"A":x}]', /It is not JSON at line 1/],
    ['one JSON object', () => '{"A":1}', /one JSON object/, { hints: { type: 'application/json' } }],
    ['texts among rows', () => '[{"A":1},"x"]', /Row 2 is neither/],
    ['arrays among objects', () => '[{"A":1},[1]]', /Row 2 is an array among objects/],
    ['bytes of no text', () => Uint8Array.from({ length: 4000 }, (_, i) => (i * 7) % 32), /not a table/],
    ['a PDF', () => '%PDF-1.7 ...', /PDF/],
    ['a workbook with a password', () => Uint8Array.from([0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1]), /password/],
    [
      'an OpenDocument sheet with a password',
      () => ods('', '<manifest:manifest xmlns:manifest="m"><manifest:encryption-data/></manifest:manifest>'),
      /password/,
    ],
    ['a truncated gzip', () => gzip('A,B\n' + '1,2\n'.repeat(1000)).slice(0, 40), /cut short or damaged/],
    ['gzip in gzip', () => gzipSync(gzip('A\n1\n')), /twice/],
    ['a gzip bomb', () => gzipSync(zeros), /larger than 32 MB|longer than|not a table/, { limit: 32 * 1024 * 1024 }],
    ['a zip of something else', () => zipSync({ 'a.csv': strToU8('A\n1\n') }), /ZIP archive, and no workbook/],
    ['a truncated workbook', () => xlsx([['A'], ['1']]).slice(0, 300), /damaged|no workbook|no sheet/],
    ['a workbook that is no XML', () => zipSync({ 'xl/workbook.xml': strToU8('<a><b></a>') }), /not XML/],
    [
      'a workbook with entities',
      () => zipSync({ 'xl/workbook.xml': strToU8('<!DOCTYPE x [<!ENTITY a "b">]><a>&a;</a>') }),
      /document type/,
    ],
    [
      'a workbook without the sheet asked for',
      () => xlsx([['A']]),
      /no sheet “Third”/,
      { choices: { sheet: 'Third' } },
    ],
    ['a file over the limit', () => 'A\n' + 'x\n'.repeat(2000), /larger than 0 MB/, { limit: 1000 }],
  ];
  for (const [what, bytes, says, options] of cases)
    it(what, async () => expect((await refusal(bytes(), options))[0]).toMatch(says));

  it('an OpenDocument sheet of which some letters stand for millions of rows, in little memory', async () => {
    const row =
      '<table:table-row table:number-rows-repeated="1900000"><table:table-cell><text:p>x</text:p></table:table-cell></table:table-row>';
    expect(await refusal(ods(row.repeat(5_000)))).toEqual([
      jasmine.stringMatching(/more than 10000000 rows/) as never,
      jasmine.any(Number) as never,
    ]);
  });

  it('unbalanced quotes at line 3 of many', async () => {
    const text = `A,B\n1,2\n3,"4\n${'5,6\n'.repeat(3_000_000)}`;
    expect(await refusal(text)).toEqual([jasmine.stringContaining('line 3') as never, 3]);
  });
});

describe('what was written comes back as it was', () => {
  it('in every case of csv-spectrum', async () => {
    const folder = join(createRequire(import.meta.url).resolve('csv-spectrum'), '..');
    const names = readdirSync(join(folder, 'csvs')).filter((name) => name.endsWith('.csv'));
    expect(names.length).toBeGreaterThan(8);
    for (const name of names) {
      const json = readFileSync(join(folder, 'json', name.replace('.csv', '.json')), 'utf8');
      // One of them is not an array, and has another number than its CSV.
      const expected = [JSON.parse(json.replace('1234567890', '2095257564')) as Record<string, string>[]].flat();
      const { columns, rows } = await readOut(readFileSync(join(folder, 'csvs', name)));
      const objects = rows.map((row) => Object.fromEntries(columns.map((column, i) => [column, row[i]])));
      expect(objects).withContext(name).toEqual(expected);
    }
  });

  it('in a thousand random tables, whatever they are written as', async () => {
    const cell = fc.string({ unit: 'grapheme', maxLength: 12 }).map((text) => text.replaceAll('\r', '\n'));
    const table = fc.integer({ min: 1, max: 5 }).chain((width) =>
      fc.record({
        names: fc.uniqueArray(fc.stringMatching(/^[a-z]{1,5}$/), { minLength: width, maxLength: width }),
        rows: fc.array(fc.array(cell, { minLength: width, maxLength: width }), { minLength: 1, maxLength: 6 }),
      }),
    );
    await fc.assert(
      fc.asyncProperty(table, fc.constantFrom('csv', 'json', 'ndjson', 'gzip'), async ({ names, rows }, as) => {
        const csv = [names, ...rows].map((cells) => csvLine(cells)).join('');
        const objects = rows.map((row) => JSON.stringify(Object.fromEntries(names.map((name, i) => [name, row[i]]))));
        const bytes =
          as === 'csv'
            ? csv
            : as === 'gzip'
              ? gzip(csv)
              : as === 'json'
                ? `[${objects.join(',')}]`
                : objects.join('\n');
        const out = await readOut(
          bytes,
          { choices: { delimiter: ',' }, hints: as === 'csv' ? { type: 'text/csv' } : {} },
          7,
        );
        expect([out.columns, out.rows] as unknown).toEqual([names, rows]);
      }),
      { numRuns: 1000 },
    );
  }, 120_000);
});

it('a file is read as it comes: no more of it is asked for than is needed', async () => {
  let given = 0;
  async function* bytes(): AsyncGenerator<Uint8Array> {
    for (const piece of [strToU8('A\n'), ...Array.from({ length: 100 }, () => strToU8('x\n'.repeat(10_000)))]) {
      given++;
      yield await Promise.resolve(piece);
    }
  }
  const { readFile } = await import('@usual-needle/formats');
  const table = await readFile(bytes());
  for await (const batch of table.batches) if (batch.rows.length > 0) break;
  expect(given).toBeLessThan(60);
});
