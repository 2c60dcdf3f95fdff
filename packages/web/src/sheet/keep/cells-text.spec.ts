import fc from 'fast-check';
import { cellsOfText, textOfCells } from './cells-text';

describe('cells as copied text', () => {
  const cases: [what: string, text: string, rows: string[][]][] = [
    ['one cell', 'a', [['a']]],
    [
      'rows and columns',
      'a\tb\nc\td',
      [
        ['a', 'b'],
        ['c', 'd'],
      ],
    ],
    ['a line break at the end', 'a\r\nb\r\n', [['a'], ['b']]],
    [
      'blank cells',
      '\t\n\t',
      [
        ['', ''],
        ['', ''],
      ],
    ],
    ['a cell of several lines', '"two\nlines"\tx', [['two\nlines', 'x']]],
    ['doubled quotes', '"say ""so"""\ty', [['say "so"', 'y']]],
    ['a quote in the middle is a letter', '5" wide\tx', [['5" wide', 'x']]],
    ['a quote that is never closed is one, too', '"open\tx', [['"open', 'x']]],
    ['quotes before more letters', '"a"b\tc', [['"a"b', 'c']]],
    ['nothing', '', [['']]],
  ];
  for (const [what, text, rows] of cases) it(what, () => expect(cellsOfText(text)).toEqual(rows));

  it('any cells come back as they were', () => {
    const cell = fc.oneof(fc.string(), fc.constantFrom('', '"', '""', 'a\nb', 'a\tb', '\r\n', '"x', 'x"'));
    const table = fc
      .integer({ min: 1, max: 4 })
      .chain((width) =>
        fc.array(fc.array(cell, { minLength: width, maxLength: width }), { minLength: 1, maxLength: 5 }),
      );
    fc.assert(
      fc.property(table, (rows) => {
        // A last row of one blank cell looks like the line break that ends the one before.
        fc.pre(rows.length === 1 || rows[rows.length - 1].join('') !== '' || rows[0].length > 1);
        expect(cellsOfText(textOfCells(rows))).toEqual(rows);
      }),
    );
  });
});
