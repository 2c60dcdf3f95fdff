import fc from 'fast-check';
import {
  blankQuestion,
  NotAPack,
  PackReader,
  type PackWriter,
  Search,
  Table,
  offering,
  valueCounts,
  windowRows,
  type ColumnSpec,
} from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Thing', kind: 'text' },
  { name: 'Worth', kind: 'number', shown: { number: { decimals: 2, grouping: true } } },
  { name: 'Found', kind: 'date', shown: { date: 'd MMM yyyy' } },
  { name: 'Status', kind: 'choice' },
];

function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.byteLength, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.byteLength;
  }
  return all;
}
const read = (part: PackWriter): PackReader => new PackReader(joined(part.numberParts).buffer, joined(part.textParts));

function throughBytes(table: Table): Table {
  const parts = [...table.packSteps()].filter((part) => part !== undefined);
  const unpacked = Table.ofPack(table.columns, read(parts.pop()!));
  for (const part of parts) unpacked.unpack(read(part));
  return unpacked;
}

const TEXTS = ['', 'umb', 'brückl', 'lp405', '"hat b"', 'umbrela~', 'ha*t', '1250', 'nov 2026', 'w?', 'status:held'];

function answers(table: Table): unknown[] {
  return TEXTS.map((text) => {
    const question = {
      ...blankQuestion([0, 1, 2, 3]),
      strands: [{ verb: 'find' as const, text, reading: 'words' as const }],
      sort: [{ column: 1, direction: 'down' as const, by: 'value' as const }],
    };
    const search = new Search(table, question).run();
    return [
      [search.matched, search.columnTallies, search.strandTallies],
      windowRows(search, 0, 50, [0, 1, 2, 3]).map(({ id, place, cells, raw, marks }) => [id, place, cells, raw, marks]),
      valueCounts(offering(table, question, 3).run(), 3),
    ];
  });
}

const cells = fc.tuple(
  fc.constantFrom('umbrella', 'Brückl hat', 'hat box', 'LP-405', 'ha\nt', '\ud800 half', '\ufeffmark', '  ', 'Ω–ß'),
  fc.constantFrom('1250.5', '7', 'x', ''),
  fc.constantFrom('2026-11-18', '2026', 'soon', ''),
  fc.constantFrom('Held', 'Returned', ''),
);

describe('a table packed and unpacked', () => {
  it('answers as before, whatever was changed, removed and added before it was packed and since', () => {
    const edit = fc.record({ id: fc.integer({ min: 1, max: 40 }), after: fc.option(cells, { nil: null, freq: 4 }) });
    fc.assert(
      fc.property(
        fc.array(cells, { minLength: 1, maxLength: 30 }),
        fc.array(edit, { maxLength: 12 }),
        fc.array(edit, { maxLength: 12 }),
        (rows, before, since) => {
          const table = new Table(
            COLUMNS,
            rows.map((one, i) => ({ id: i + 1, cells: one })),
          );
          for (const one of before) table.apply([one]);
          const unpacked = throughBytes(table);
          expect(answers(unpacked)).toEqual(answers(table));
          for (const one of since) {
            table.apply([one]);
            unpacked.apply([one]);
          }
          expect(answers(unpacked)).toEqual(answers(table));
          expect(answers(throughBytes(unpacked))).toEqual(answers(table));
        },
      ),
      { numRuns: 60 },
    );
  });

  it('holds over several segments, and columns that are read anew', () => {
    const rows = Array.from({ length: 20_000 }, (_, i) => ({
      id: i + 1,
      cells: [
        `umbrella ${i % 700} hat ${i}`,
        String(i),
        `2026-${String((i % 12) + 1).padStart(2, '0')}-03`,
        i % 3 ? 'Held' : 'Sold',
      ],
    }));
    const table = new Table(COLUMNS, rows);
    const unpacked = throughBytes(table);
    expect(unpacked.segments.length).toBe(table.segments.length);
    expect(answers(unpacked)).toEqual(answers(table));
    for (const one of [table, unpacked])
      one.respecify([COLUMNS[0], { name: 'Worth', kind: 'text' }, ...COLUMNS.slice(2)]);
    expect(answers(unpacked)).toEqual(answers(table));
    for (const one of [table, unpacked]) one.apply([{ id: 20_001, after: ['brückl', '1', '', 'Held'] }]);
    expect(answers(unpacked)).toEqual(answers(table));
  });

  it('packs a moment of each cell while rows change, which the changes since then make right', () => {
    const table = new Table(
      COLUMNS,
      Array.from({ length: 100 }, (_, i) => ({ id: i + 1, cells: [`hat ${i}`, String(i), '', 'Held'] })),
    );
    const changes = Array.from({ length: 12 }, (_, i) => [
      { id: i * 9 + 1, after: [`umbrella ${i}`, '5', '', 'Sold'] },
    ]);
    const parts: PackWriter[] = [];
    let next = 0;
    for (const part of table.packSteps()) {
      if (part) parts.push(part);
      if (next < changes.length) table.apply(changes[next++]);
    }
    while (next < changes.length) table.apply(changes[next++]);
    const unpacked = Table.ofPack(COLUMNS, read(parts.pop()!));
    for (const part of parts) unpacked.unpack(read(part));
    for (const change of changes) unpacked.apply(change);
    expect(answers(unpacked)).toEqual(answers(table));
  });

  it('keeps whole letters beyond U+FFFF beside halves of such, in every value and word', () => {
    const things = Array.from({ length: 300 }, (_, i) => `🧵${i} wool 🪡 ${i % 7 === 0 ? '\ud83e' : ''} spool${i}🧶`);
    const table = new Table(
      COLUMNS,
      things.map((thing, i) => ({ id: i + 1, cells: [thing, String(i), '', 'Held'] })),
    );
    const unpacked = throughBytes(table);
    expect(
      unpacked.segments.flatMap(({ columns, rowCount }) =>
        things.slice(0, rowCount).map((_, i) => columns[0].rawText(i)),
      ),
    ).toEqual(things);
    for (const text of ['l', '🧵', '🪡', 'spool7', '\ud83e', 'wool']) {
      const question = {
        ...blankQuestion([0, 1, 2, 3]),
        strands: [{ verb: 'find' as const, text, reading: 'words' as const }],
      };
      expect(new Search(unpacked, question).run().matched)
        .withContext(text)
        .toBe(new Search(table, question).run().matched);
    }
  });

  it('has another arrangement once segments are joined, and is refused with rows that are lacking', () => {
    const row = (id: number) => ({ id, cells: [`hat ${id}`, String(id), '', 'Held'] });
    let id = 0;
    const table = new Table(
      COLUMNS,
      Array.from({ length: 16_384 }, () => row(++id)),
    );
    const add = (count: number): void => table.append(Array.from({ length: count }, () => row(++id)));
    const before = table.arrangement;
    for (let i = 0; i < 16; i++) add(256);
    expect(table.arrangement).toBe(before);
    add(256);
    expect(table.arrangement).not.toBe(before);
    const parts = [...table.packSteps()].filter((part) => part !== undefined);
    const shared = parts.pop()!;
    const whole = Table.ofPack(COLUMNS, read(shared));
    for (const part of parts) whole.unpack(read(part));
    whole.unpacked();
    expect(whole.rowCount).toBe(table.rowCount);
    const lacking = Table.ofPack(COLUMNS, read(shared));
    for (const part of parts.slice(1)) lacking.unpack(read(part));
    expect(() => lacking.unpacked()).toThrowError(NotAPack);
  });

  it('is refused where it is cut off, or has more than it should', () => {
    const [segment, shared] = [...new Table(COLUMNS, [{ id: 1, cells: ['hat', '1', '', 'Held'] }]).packSteps()].filter(
      (part) => part !== undefined,
    );
    const numbers = joined(segment.numberParts);
    const texts = joined(segment.textParts);
    const fresh = (): Table => Table.ofPack(COLUMNS, read(shared));
    for (let cut = 8; cut < numbers.byteLength; cut += 64)
      expect(() => fresh().unpack(new PackReader(numbers.slice(0, cut & ~7).buffer, texts))).toThrow();
    expect(() => fresh().unpack(new PackReader(numbers.buffer, texts.subarray(1)))).toThrow();
    const longer = new Uint8Array(numbers.byteLength + 8);
    longer.set(numbers);
    expect(() => fresh().unpack(new PackReader(longer.buffer, texts))).toThrowError(NotAPack);
  });
});
