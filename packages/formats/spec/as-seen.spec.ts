/** Cells are what a person sees, and what the file says; files may lack what is optional; a little that stands for much is refused. */
import { strToU8, zipSync } from 'fflate';
import { ods, readOut, refusal, xlsx } from './files.js';

const sheetOf = (rows: string, more: Record<string, string> = {}, workbook = ''): Uint8Array =>
  zipSync({
    'xl/workbook.xml': strToU8(
      `<workbook xmlns:r="r">${workbook}<sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      '<Relationships><Relationship Id="rId1" Target="worksheets/sheet1.xml"/></Relationships>',
    ),
    'xl/worksheets/sheet1.xml': strToU8(`<worksheet><sheetData>${rows}</sheetData></worksheet>`),
    ...Object.fromEntries(Object.entries(more).map(([name, text]) => [name, strToU8(text)])),
  });
const text = (words: string): string => `<c t="inlineStr"><is><t>${words}</t></is></c>`;
const styles = (...codes: string[]): Record<string, string> => ({
  'xl/styles.xml': `<styleSheet><numFmts>${codes.map((code, i) => `<numFmt numFmtId="${164 + i}" formatCode="${code}"/>`).join('')}</numFmts><cellXfs><xf numFmtId="0"/>${codes.map((_, i) => `<xf numFmtId="${164 + i}"/>`).join('')}</cellXfs></styleSheet>`,
});

describe('a workbook', () => {
  it('without shared strings and without styles is read', async () => {
    const { columns, rows } = await readOut(sheetOf(`<row>${text('Name')}</row><row><c><v>12</v></c></row>`));
    expect([columns, rows] as unknown).toEqual([['Name'], [['12']]]);
  });

  it('of open documents without a manifest is read', async () => {
    const bytes = zipSync({
      'content.xml': strToU8(
        '<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x"><table:table table:name="S"><table:table-row><table:table-cell><text:p>A</text:p></table:table-cell></table:table-row><table:table-row><table:table-cell><text:p>x</text:p></table:table-cell></table:table-row></table:table></office:document-content>',
      ),
    });
    expect((await readOut(bytes)).rows).toEqual([['x']]);
  });

  it('shows elapsed times, dates of 1904, and dates stored as such', async () => {
    const rows = `<row>${text('A')}</row><row><c s="1"><v>1.5</v></c></row><row><c s="2"><v>43065</v></c></row><row><c s="2" t="d"><v>2026-11-18</v></c></row><row><c t="d"><v>2026-11-18T00:00:00</v></c></row>`;
    const of1904 = sheetOf(rows, styles('[h]:mm', 'yyyy-mm-dd'), '<workbookPr date1904="1"/>');
    expect((await readOut(of1904)).rows.flat()).toEqual(['36:00', '2021-11-27', '2026-11-18', '2026-11-18']);
  });

  it('leaves out how words are read aloud', async () => {
    const aloud = '<c t="inlineStr"><is><t>東京</t><rPh sb="0" eb="2"><t>トウキョウ</t></rPh></is></c>';
    expect((await readOut(sheetOf(`<row>${text('A')}</row><row>${aloud}</row>`))).rows).toEqual([['東京']]);
  });

  it('of open documents leaves out pictures, boxes of text and remarks, and takes white space for what is seen', async () => {
    const cell = (inside: string): string =>
      `<table:table-row><table:table-cell>${inside}</table:table-cell></table:table-row>`;
    const bytes = ods(
      cell('<text:p>A</text:p>') +
        cell(
          '<draw:frame xmlns:draw="d"><draw:text-box><text:p>in a box</text:p></draw:text-box></draw:frame><text:p>hat</text:p>',
        ) +
        cell('<text:p>\n      two\n      words<text:s text:c="2"/>and <text:span>more </text:span>\n    </text:p>'),
    );
    expect((await readOut(bytes)).rows).toEqual([['hat'], ['two words  and more']]);
  });

  it('in which some letters stand for very many is refused, soon, with a sentence', async () => {
    const long = 'x'.repeat(50_000);
    const bomb = ods(
      `<table:table-row table:number-rows-repeated="1000000"><table:table-cell table:number-columns-repeated="400"><text:p>${long}</text:p></table:table-cell></table:table-row>`,
    );
    expect(bomb.length).toBeLessThan(5_000);
    const before = process.cpuUsage();
    expect((await refusal(bomb))[0]).toContain('letters');
    expect(process.cpuUsage(before).user).withContext('microseconds of work').toBeLessThan(5_000_000);
    const many = ods(
      `<table:table-row><table:table-cell><text:p>A</text:p></table:table-cell></table:table-row><table:table-row table:number-rows-repeated="1900000"><table:table-cell><text:p>${'y'.repeat(2_000)}</text:p></table:table-cell></table:table-row>`,
    );
    expect((await refusal(many))[0]).toContain('too much text');
  });

  it('gives others their turn, however little of it is rows', async () => {
    const blank = Array.from({ length: 300_000 }, () => '<row><c s="1"/></row>').join('');
    const strings = `<sst>${Array.from({ length: 100_000 }, (_, i) => `<si><t>text ${i}</t></si>`).join('')}</sst>`;
    const bytes = sheetOf(`<row>${text('A')}</row>${blank}<row>${text('last')}</row>`, {
      'xl/sharedStrings.xml': strings,
    });
    let longest = 0;
    let before = process.cpuUsage();
    const beat = setInterval(() => {
      longest = Math.max(longest, process.cpuUsage(before).user);
      before = process.cpuUsage();
    }, 1);
    expect((await readOut(bytes)).rows).toEqual([['last']]);
    clearInterval(beat);
    expect(longest).withContext('microseconds of work in one piece').toBeLessThan(250_000);
  });

  it('of another maker is read as before', async () => {
    expect(
      (
        await readOut(
          xlsx([
            ['A', 'B'],
            ['x', { n: 1.5 }],
          ]),
        )
      ).rows,
    ).toEqual([['x', '1.5']]);
  });
});

describe('JSON', () => {
  it('keeps numbers as they are written, also further down, and columns in the order of the file', async () => {
    const { columns, rows } = await readOut(
      '[{"Name":"x","2024":12345678901234567890,"10":1E400,"__proto__":1.50,"deep":{"b":1.50,"2":[1E400]}}]',
    );
    expect(columns).toEqual(['Name', '2024', '10', '__proto__', 'deep']);
    expect(rows).toEqual([['x', '12345678901234567890', '1E400', '1.50', '{"b":1.50,"2":[1E400]}']]);
  });

  it('with a name twice in one object says so, or takes the last one where that is to be mended', async () => {
    expect(await refusal('[{"A":1},{"A":1,"A":2}]')).toEqual(['Row 2 has “A” twice.', 2]);
    const mended = await readOut('[{"A":1,"A":2}]', { choices: { unkeepable: 'mend' } });
    expect([mended.rows, mended.notes.map(({ what }) => what)] as unknown).toEqual([[['2']], ['twice']]);
  });
});
