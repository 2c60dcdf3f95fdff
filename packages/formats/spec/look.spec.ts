import { LENIENT, type FileChoices } from '@usual-needle/contract';
import { LookThrough, PLACES, type Look } from '@usual-needle/formats';
import { strToU8 } from 'fflate';
import { inPieces } from './files.js';

async function looked(text: string, choices: FileChoices = {}): Promise<LookThrough> {
  const bytes = strToU8(text);
  const through = new LookThrough(choices, { name: 'a.csv' });
  const steps = through.read(inPieces(bytes, 5_000));
  while (!(await steps.next()).done);
  return through;
}

/** As the drawing has it: most rows in order, some not. */
function claims(count: number): string {
  const rows = Array.from({ length: count }, (_, i) => {
    const day = `${1 + (i % 28)}.${1 + (i % 12)}.2026`;
    if (i === 500) return `C-${i};last week;30,00`;
    if (i === 900) return `C-${i};31.02.2026;approx. 10`;
    if (i === 700) return `C-${i};${day};2,00;903J`;
    if (i === 800) return `"C-${i}\nagain";${day};1.250,50`;
    return `C-${i};${day};${i % 50},00`;
  });
  return `Claim no.;Lost on;Value\n${rows.join('\n')}\n`;
}

describe('a file is looked through before it is brought in', () => {
  let through: LookThrough;
  let look: Look;
  beforeAll(async () => {
    through = await looked(claims(1_000));
    look = through.look();
  });

  it('says what it is and what its columns hold, from all of it', () => {
    expect([look.found.format, look.found.delimiter, look.found.header, look.rows, look.done] as unknown).toEqual([
      'csv',
      ';',
      true,
      1_000,
      true,
    ]);
    expect(look.columns.map(({ column }) => column) as unknown).toEqual([
      { name: 'Claim no.', kind: 'text' },
      { name: 'Lost on', kind: 'date', dateOrder: 'day first', shown: { date: 'd MMM yyyy' } },
      { name: 'Value', kind: 'number', decimal: 'comma' },
    ]);
  });

  it('counts everything that wants a look, with examples, and says where it lies', () => {
    const told = look.troubles.map(({ what, column, count, examples }) => [
      what,
      column,
      count,
      examples.map(({ text }) => text),
    ]);
    expect(told as unknown).toEqual([
      ['misfit', 1, 2, ['last week', '31.02.2026']],
      ['misfit', 2, 2, ['2,00;903J', 'approx. 10']],
      ['tooMany', -1, 1, ['903J']],
      ['order', 1, jasmine.any(Number), []],
      ['line break', -1, 1, ['C-800 ⏎ again']],
    ]);
    expect([look.places.length, look.places.findIndex((count) => count > 0)]).toEqual([PLACES * 0.625, 62]);
    expect(look.places.reduce((sum, count) => sum + count, 0)).toBe(5);
    const at = look.places.findIndex((count) => count > 0);
    expect(through.rowsOf({ place: at }).length).toBeGreaterThan(0);
  });

  it('shows the first rows as they will be, and those of each sort of trouble', () => {
    const first = through.rowsOf('first');
    expect([first.length, first[0]] as unknown).toEqual([
      200,
      { line: 2, cells: ['C-0', '1 Jan 2026', '0,00'], wrong: [], mended: false },
    ]);
    expect(through.rowsOf({ what: 'misfit', column: 1 }).map(({ line, wrong }) => [line, wrong])).toEqual([
      [502, [1]],
      [903, [1, 2]],
    ]);
    expect(through.rowsOf({ what: 'tooMany', column: -1 })).toEqual([
      { line: 702, cells: ['C-700', '1 May 2026', '2,00;903J'], wrong: [2], mended: true },
    ]);
  });

  it('follows what is chosen of the columns without reading the file again', () => {
    const choices: FileChoices = { columns: [{ take: false }, { kind: 'text' }, { name: 'Worth', kind: 'number' }] };
    expect(through.asksToReadAnew(choices)).toBeFalse();
    expect(through.asksToReadAnew({ delimiter: ',' })).toBeTrue();
    through.choose(choices);
    const after = through.look();
    expect(after.columns.map(({ taken, column }) => [taken, column.name, column.kind])).toEqual([
      [false, 'Claim no.', 'text'],
      [true, 'Lost on', 'text'],
      [true, 'Worth', 'number'],
    ]);
    // By the point every cell with a comma is none.
    expect(after.troubles.find(({ what }) => what === 'misfit')?.count).toBe(1_000);
    through.choose({});
  });

  it('asks which of two orders dates are in where no cell tells', async () => {
    const { troubles, columns } = (await looked('A\n03/04/2026\n05/06/2026\n')).look();
    expect([columns[0].column.kind, troubles[0].what, troubles[0].examples[0].text] as unknown).toEqual([
      'text',
      'open order',
      '03/04/2026',
    ]);
  });

  it('mends as it is chosen', async () => {
    const dropped = await looked('A,B\n1,2,3\n4\n', { ...LENIENT, tooMany: 'drop' });
    expect(dropped.rowsOf('first').map(({ cells }) => cells)).toEqual([
      ['1', '2'],
      ['4', ''],
    ]);
    const out = await looked('A,B\n1,2,3\n4\n', { tooMany: 'leave out', tooFew: 'leave out' });
    expect([out.look().rows, out.look().troubles.map(({ what }) => what)] as unknown).toEqual([
      0,
      ['tooMany', 'tooFew'],
    ]);
  });

  it('keeps no more of a large file than what it shows', async () => {
    const large = await looked(`A\n${'x'.repeat(3_000)}\n`.repeat(300));
    expect(large.rowsOf('first').every(({ cells }) => cells[0].length <= 401)).toBeTrue();
  });
});
