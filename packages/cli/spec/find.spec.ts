import { readSheet } from 'read-excel-file/node';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const COMMAND = fileURLToPath(new URL('../bin/usual-needle.js', import.meta.url));
const CSV = [
  'Item no.,Description,Colour,Found on,Value',
  'LP-1,"Umbrella, wooden",black,2026-11-18,12',
  'LP-2,Folding umbrella,red,2026-03-02,1250.5',
  'LP-3,"Straße map\nold",red,2026-01-31,',
  'LP-10,Brückl’s hat,,2026-12-01,3',
  '',
].join('\n');

describe('usual-needle find', () => {
  let folder: string;
  let file: string;
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'usual-needle-cli-'));
    file = join(folder, 'things.csv');
    writeFileSync(file, CSV);
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  const run = (args: string[], input?: string): { code: number | null; out: string; err: string } => {
    const { status, stdout, stderr } = spawnSync(process.execPath, [COMMAND, ...args], { input, encoding: 'utf8' });
    return { code: status, out: stdout, err: stderr };
  };
  const rows = (...args: string[]): number[] => {
    const { out } = run(['find', file, ...args, '--out', 'ndjson']);
    return out
      .split('\n')
      .filter((line) => line !== '')
      .map((line) => (JSON.parse(line) as { row: number }).row);
  };

  const cases: [string[], number[]][] = [
    [['umbr'], [1, 2]],
    [[], [1, 2, 3, 4]],
    [['strasse map'], [3]],
    [['umbr wood'], [1]],
    [
      ['umbr hat', '--need', 'any'],
      [1, 2, 4],
    ],
    [
      ['umb?ella', '--reading', 'wildcards', '--where', 'word'],
      [1, 2],
    ],
    [
      ['^LP-\\d$', '--reading', 'pattern'],
      [1, 2, 3],
    ],
    [
      ['-1', '--reading', 'plain', '--in', 'Item no.'],
      [1, 4],
    ],
    [['BRÜCKL', '--case', 'respect'], []],
    [['bruckl', '--accents', 'respect'], []],
    [
      ['umbr', '--effect', 'mark'],
      [1, 2, 3, 4],
    ],
    [
      ['umbr', '--effect', 'leave-out'],
      [3, 4],
    ],
    [
      ['umbr', '--flip'],
      [3, 4],
    ],
    [
      ['umbr', '--strand', 'minus: fold', '--strand', 'plus: hat'],
      [1, 4],
    ],
    [
      ['--pick', 'Colour=red|black', '--pick', 'Found on=2026-01..2026-03'],
      [2, 3],
    ],
    [
      ['--pick', 'Value=3..12'],
      [1, 4],
    ],
    [
      ['--sort', 'Found on:down,Item no.:up'],
      [4, 1, 2, 3],
    ],
    [
      ['--sort', 'Item no.:down'],
      [4, 3, 2, 1],
    ],
    [
      ['--sort', 'Value'],
      [4, 1, 2, 3],
    ],
    [
      ['--sort', 'Value', '--kind', 'Value=text'],
      [4, 1, 2, 3],
    ],
    [['value>100'], [2]],
  ];
  for (const [args, expected] of cases) {
    it(`${args.join(' ')} gives rows ${expected.join(', ') || 'none'}`, () => expect(rows(...args)).toEqual(expected));
  }

  it('takes names with commas in quotes, and yes/no cells for what they say', () => {
    const csv = '"Name, full",Kept\ntag 9,y\ntag 10,N\nhat,TRUE\ncap,\n';
    const from = (...args: string[]): string[] =>
      run(['find', '-', ...args, '--show', '"Name, full"'], csv)
        .out.trim()
        .split(/\r?\n/)
        .slice(1);
    expect(from('--sort', '"Name, full":down', '--in', '"Name, full"', 'tag')).toEqual(['tag 10', 'tag 9']);
    expect(from('--pick', 'Kept=yes')).toEqual(['tag 9', 'hat']);
    expect(from('--pick', 'Kept=yes|no')).toEqual(['tag 9', 'tag 10', 'hat']);
    expect(from('--pick', '"Name, full"=hat|cap')).toEqual(['hat', 'cap']);
  });

  it('gives cells and marks, and the number alone', () => {
    const { out, code } = run(['find', file, 'umbr wood', '--out', 'json', '--show', 'Description']);
    expect(code).toBe(0);
    const { list, matched, rows, keywords } = JSON.parse(out) as Record<string, unknown>;
    expect(list).toEqual([
      {
        row: 1,
        cells: { Description: 'Umbrella, wooden' },
        marks: [
          ['Description', 0, 4, 1],
          ['Description', 10, 14, 2],
        ],
      },
    ]);
    expect([matched, rows, keywords]).toEqual([
      1,
      1,
      [
        { number: 1, text: 'umbr', rows: 1 },
        { number: 2, text: 'wood', rows: 1 },
      ],
    ]);
    expect(run(['find', file, 'umbr', '--out', 'count'])).toEqual({ code: 0, out: '2\n', err: '' });
    expect(run(['find', file, 'umbr', '--effect', 'mark', '--out', 'count']).out).toBe('2\n');
    expect(run(['find', file, 'zzz', '--out', 'count'])).toEqual({ code: 1, out: '0\n', err: '' });
    expect(JSON.parse(run(['find', file, 'zzz', '--out', 'json']).out)).toEqual(jasmine.objectContaining({ list: [] }));
  });

  it('writes files in every form, whole or not at all', async () => {
    const to = (name: string): string => join(folder, name);
    const write = (out: string, ...more: string[]) =>
      run(['find', file, 'umbr', '--out', out, '--to', to(`out.${out}`), ...more]);
    for (const out of ['csv', 'json', 'ndjson', 'xlsx', 'html', 'count'])
      expect(write(out)).toEqual({ code: 0, out: '', err: '' });
    expect(readFileSync(to('out.csv'), 'utf8')).toMatch(/^Item no\.,Description,.*\r\n.*Umbrella, wooden/);
    expect(readFileSync(to('out.html'), 'utf8')).toContain('<mark class="k1">Umbr</mark>ella, wooden');
    const sheet = await readSheet(readFileSync(to('out.xlsx')));
    expect([sheet.length, sheet[1][1]]).toEqual([3, 'Umbrella, wooden']);
    expect(readFileSync(to('out.count'), 'utf8')).toBe('2\n');
    const nowhere = run(['find', file, 'umbr', '--to', join(folder, 'no/such/folder.csv')]);
    expect([nowhere.code, nowhere.err]).toEqual([2, jasmine.stringMatching(/cannot be written/) as never]);
    expect(readdirSync(folder).filter((name) => name.endsWith('.half'))).toEqual([]);
  }, 60_000);

  it('writes CSV that reads back, from standard input too', () => {
    const first = run(['find', '-', 'strasse', '--out', 'csv'], CSV);
    expect(first.out).toBe('Item no.,Description,Colour,Found on,Value\r\nLP-3,"Straße map\nold",red,2026-01-31,\r\n');
    expect(run(['find', '-', '--out', 'count'], first.out).out).toBe('1\n');
  });

  it('takes a box file, and options over it', () => {
    const box = join(folder, 'box.json');
    writeFileSync(
      box,
      JSON.stringify({
        format: 'usual-needle box',
        version: 1,
        threaded: ['Colour'],
        where: 'whole cell',
        strands: [
          { verb: 'find', text: 'red' },
          { verb: 'minus', text: 'nothing' },
        ],
        sort: [{ column: 'Item no.', direction: 'down' }],
        columns: [{ name: 'Item no.' }],
      }),
    );
    expect(run(['find', file, '--box', box]).out).toBe('Item no.\r\nLP-3\r\nLP-2\r\n');
    expect(rows('black', '--box', box)).toEqual([1]);
    expect(rows('umbr', '--box', box, '--in', 'Description', '--where', 'anywhere')).toEqual([2, 1]);
    writeFileSync(box, JSON.stringify({ format: 'usual-needle box', version: 2 }));
    expect(run(['find', file, '--box', box])).toEqual({
      code: 2,
      out: '',
      err: jasmine.stringMatching(/not a box of this version/) as never,
    });
  });

  it('explains that nothing was found', () => {
    const { code, err } = run(['find', file, 'umbrellla', '--explain', '--out', 'count']);
    expect(code).toBe(1);
    expect(err).toContain('Near spelling: umbrella, in 2 rows. Use it → 2 rows');
  });

  it('gives notices on standard error', () => {
    expect(run(['find', file, 'umbr -', '--out', 'count'])).toEqual({
      code: 0,
      out: '2\n',
      err: jasmine.stringMatching(/characters 5–6: “-” has nothing after it/) as never,
    });
  });

  const errors: [string, string[], RegExp][] = [
    ['a file that is not there', ['find', '/nowhere.csv', 'x'], /cannot be read/],
    ['an unknown column', ['find', 'FILE', 'x', '--in', 'Nope'], /There is no column “Nope”\. There are: Item no\./],
    [
      'a pattern that cannot be read',
      ['find', 'FILE', '(a', '--reading', 'pattern'],
      /characters 0–1: This bracket is not closed/,
    ],
    ['a strand without its verb', ['find', 'FILE', '--strand', 'umbr'], /--strand wants/],
    ['a reading that is none', ['find', 'FILE', 'x', '--reading', 'fuzzy'], /Allowed choices are/],
    ['a kind that is none', ['find', 'FILE', 'x', '--kind', 'Colour=hue'], /is no kind/],
    ['a date that is none', ['find', 'FILE', '--pick', 'Found on=soon'], /cannot be read as a date/],
    ['no file', ['find'], /missing required argument/],
  ];
  for (const [what, args, message] of errors) {
    it(`exits with 2 and a message for ${what}`, () => {
      const { code, out, err } = run(args.map((arg) => (arg === 'FILE' ? file : arg)));
      expect([code, out]).toEqual([2, '']);
      expect(err).toMatch(message);
      expect(err).not.toContain('    at ');
    });
  }

  it('refuses a ragged row by its line', () => {
    expect(run(['find', '-', 'x'], 'A,B\n1,2\n3\n')).toEqual({
      code: 2,
      out: '',
      err: 'Line 3 has 1 cell; the header has 2.\n',
    });
  });
});
