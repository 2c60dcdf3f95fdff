import { csvLine, delimiterOf, FileProblem, readCsv } from '@usual-needle/formats';
import fc from 'fast-check';

/** A text in pieces of so many letters, as a file comes over the net. */
async function* pieces(text: string, size = Infinity): AsyncGenerator<string> {
  for (let at = 0; at < text.length; at += size) yield text.slice(at, at + size);
}

async function read(text: string, size?: number, delimiter?: string): Promise<string[][]> {
  const table = await readCsv(pieces(text, size), delimiter === undefined ? {} : { choices: { delimiter } });
  const rows: string[][] = [[...table.columns]];
  for await (const batch of table.batches) for (const row of batch.rows) rows.push([...row]);
  return rows;
}

async function problemOf(text: string, size?: number): Promise<FileProblem> {
  try {
    await read(text, size);
  } catch (error) {
    if (error instanceof FileProblem) return error;
    throw error;
  }
  throw new Error('it was read');
}

describe('A16: a CSV file is read cell by cell, whatever its line ends', () => {
  const cases: [what: string, text: string, rows: string[][]][] = [
    [
      'LF',
      'A,B\n1,2\n',
      [
        ['A', 'B'],
        ['1', '2'],
      ],
    ],
    [
      'CRLF',
      'A,B\r\n1,2\r\n',
      [
        ['A', 'B'],
        ['1', '2'],
      ],
    ],
    [
      'CR alone',
      'A,B\r1,2\r3,4\r',
      [
        ['A', 'B'],
        ['1', '2'],
        ['3', '4'],
      ],
    ],
    [
      'LF, then CRLF',
      'A,B\n1,2\r\n3,4\n',
      [
        ['A', 'B'],
        ['1', '2'],
        ['3', '4'],
      ],
    ],
    ['CRLF, then LF, then CR', 'A\r\n1\n2\r3', [['A'], ['1'], ['2'], ['3']]],
    [
      'no line end at the end',
      'A,B\n1,2',
      [
        ['A', 'B'],
        ['1', '2'],
      ],
    ],
    ['a last row of a quoted blank', 'A\n1\n""', [['A'], ['1'], ['']]],
    ['a last row of a quoted blank, ended', 'A\n1\n""\n', [['A'], ['1'], ['']]],
    [
      'blank cells',
      'A,B,C\n,,\n,x,\n',
      [
        ['A', 'B', 'C'],
        ['', '', ''],
        ['', 'x', ''],
      ],
    ],
    ['quotes within quotes', 'A\n"a ""b"" c"\n', [['A'], ['a "b" c']]],
    [
      'line breaks within quotes, each kept as it is',
      'A,B\n"1\n2","3\r\n4"\n"5\r6",7\n',
      [
        ['A', 'B'],
        ['1\n2', '3\r\n4'],
        ['5\r6', '7'],
      ],
    ],
    [
      'delimiters within quotes',
      'A,B\n"1,2",3\n',
      [
        ['A', 'B'],
        ['1,2', '3'],
      ],
    ],
    [
      'spaces, which are kept',
      'A,B\n  x , y\n',
      [
        ['A', 'B'],
        ['  x ', ' y'],
      ],
    ],
    [
      'a header with a line break',
      '"A\nB",C\n1,2\n',
      [
        ['A\nB', 'C'],
        ['1', '2'],
      ],
    ],
    [
      'quotes in the middle of a cell, which are letters',
      'A,B\n5" tall,x"\n',
      [
        ['A', 'B'],
        ['5" tall', 'x"'],
      ],
    ],
    ['letters beyond the first plane', 'A\n🧵🪡\n', [['A'], ['🧵🪡']]],
  ];
  for (const [what, text, rows] of cases) {
    it(what, async () => {
      expect(await read(text)).toEqual(rows);
      // However it is cut, even within a line end or a pair of quotes.
      for (const size of [1, 2, 3, 7])
        expect(await read(text, size))
          .withContext(`by ${size}`)
          .toEqual(rows);
    });
  }

  it('comes back as it was written, whatever is in its cells', async () => {
    const cell = fc.oneof(
      fc.string({ unit: fc.constantFrom('a', '"', ',', '\n', '\r', ' ', ';', '\t', 'é', '🧵') }),
      fc.string(),
    );
    const storable = cell.filter((text) => !text.includes('\0'));
    const table = fc
      .integer({ min: 2, max: 5 })
      .chain((width) => fc.array(fc.array(storable, { minLength: width, maxLength: width }), { maxLength: 12 }));
    await fc.assert(
      fc.asyncProperty(table, fc.integer({ min: 1, max: 40 }), async (rows, size) => {
        const header = Array.from({ length: rows[0]?.length ?? 2 }, (_, i) => `Column ${i}`);
        const text = [header, ...rows].map((cells) => csvLine(cells)).join('');
        expect(await read(text, size, ',')).toEqual([header, ...rows]);
      }),
      { numRuns: 300 },
    );
  });

  it('comes back as it was written in a table of one column, where a blank row is no row', async () => {
    const rows = [[''], ['a'], [''], ['']];
    expect(
      await read(['A', ...[]].map((name) => csvLine([name])).join('') + rows.map((cells) => csvLine(cells)).join('')),
    ).toEqual([['A'], ...rows]);
  });
});

describe('A16: the delimiter is told by the file', () => {
  const cases: [string, string, string][] = [
    [',', 'A,B,C\n1,2,3\n', 'commas'],
    [';', 'A;B;C\n1,5;2;3\n2,5;3;4\n', 'semicolons, with commas in numbers'],
    ['\t', 'A\tB\n1, and\t2\n3\t4\n', 'tabs, with commas in texts'],
    ['|', 'A|B|C\n1|2|3\n', 'upright strokes'],
    [',', 'A\n1\n2\n', 'one column'],
    [',', 'Name,Note\n"a;b;c","d;e;f"\n', 'semicolons that stand in quotes'],
  ];
  for (const [delimiter, text, what] of cases) {
    it(what, async () => {
      expect(delimiterOf(text)).toBe(delimiter);
      const [header] = await read(text);
      expect(header.join(delimiter)).toBe(text.split('\n', 1)[0]);
    });
  }
});

describe('a file that is no table is refused by its line', () => {
  const cases: [what: string, text: string, line: number | undefined, message: RegExp][] = [
    ['nothing', '', 1, /empty/],
    ['only spaces and line ends', ' \n\r\n ', 1, /empty/],
    ['a cell too few', 'A,B\n1,2\n3\n', 3, /Line 3 has 1 cell; the header has 2/],
    ['a cell too many', 'A,B\n1,2,3\n', 2, /Line 2 has 3 cells/],
    ['a cell too many after line breaks in quotes', 'A,B\n"1\n\r\n1",2\n3,4,5\n', 5, /Line 5 has 3 cells/],
    ['a quote that is never closed', 'A,B\n1,2\n"3,4\n', 3, /never closed/],
    ['letters after a closing quote', 'A,B\n"1"x,2\n', 2, /quote/i],
    ['a NUL', 'A\n1\n\0\n', 3, /NUL/],
    ['a NUL in the header', 'A\0\n1\n', 1, /cannot be kept/],
    ['half a surrogate pair in the header', 'A\ud800\n1\n', 1, /cannot be kept/],
    ['a column without a name', 'A,,C\n1,2,3\n', 1, /Column 2 has no name/],
    ['two columns of one name', 'A,B, A \n1,2,3\n', 1, /Two columns are named “A”/],
    ['a name too long', `${'x'.repeat(201)}\n1\n`, 1, /longer than 200/],
    ['a cell too long', `A\n${'x'.repeat(100_001)}\n`, 2, /longer than 100000/],
  ];
  for (const [what, text, line, message] of cases) {
    it(what, async () => {
      for (const size of [Infinity, 5]) {
        const problem = await problemOf(text, size);
        expect(problem.message).toMatch(message);
        expect(problem.line).withContext(`by ${size}`).toBe(line);
      }
    });
  }

  it('C2: a header of 100,000 columns, at once', async () => {
    const before = process.cpuUsage();
    const header = Array.from({ length: 100_000 }, (_, i) => `c${i}`).join(',');
    expect((await problemOf(`${header}\n`)).message).toMatch(/100000 columns; a table takes 500 at most/);
    // It took 53 seconds; a hundred times what it takes now is given.
    expect(process.cpuUsage(before).user).withContext('microseconds of work').toBeLessThan(10_000_000);
  });
});
