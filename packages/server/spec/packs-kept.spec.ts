import { PacksKept } from '../dist/threads/packs-kept.js';

const MANY = 1_000_000;

describe('which tables are worth packing', () => {
  const cases: [what: string, before: (kept: PacksKept) => void, change: number, rows: number, wanted: boolean][] = [
    ['one without a pack', () => undefined, 1, MANY, true],
    ['a small one, without a pack', () => undefined, 1, 9_999, false],
    ['one that is packed', (kept) => kept.has(1, 5), 5, MANY, false],
    ['one with some changes since', (kept) => kept.has(1, 5), 2_004, MANY, false],
    ['one with many changes since', (kept) => kept.has(1, 5), 2_005, MANY, true],
    ['one with a change of many rows', (kept) => (kept.has(1, 5), passed(kept, 20_000)), 6, MANY, true],
    ['one with changes of some rows', (kept) => (kept.has(1, 5), passed(kept, 19_999)), 6, MANY, false],
    ['one whose columns changed', (kept) => (kept.has(1, 5), passed(kept, 0, true)), 6, MANY, true],
    ['one packed after that', (kept) => (passed(kept, 0, true), kept.has(1, 6, kept.rowsBehind(1))), 6, MANY, false],
    ['one that was deleted and is back', (kept) => (kept.has(1, 5), kept.forget(1)), 5, MANY, true],
  ];
  const passed = (kept: PacksKept, rows: number, columns = false): void =>
    kept.passed({ table: 1, rows, columns: columns ? { before: [], after: [] } : null });
  for (const [what, before, change, rows, wanted] of cases)
    it(`${what}: ${wanted ? 'yes' : 'no'}`, () => {
      const kept = new PacksKept();
      before(kept);
      expect(kept.isWanted(1, change, rows)).toBe(wanted);
    });

  it('what changes while a pack is written counts for the next one', () => {
    const kept = new PacksKept();
    passed(kept, 15_000);
    const before = kept.rowsBehind(1);
    passed(kept, 12_000);
    kept.has(1, 7, before);
    expect(kept.rowsBehind(1)).toBe(12_000);
  });

  for (const [packed, change, worth] of [
    [5, 5, true],
    [5, 50_005, true],
    [5, 50_006, false],
    [6, 5, false],
  ] as const)
    it(`a pack of change ${packed} is ${worth ? '' : 'not '}worth reading at change ${change}`, () => {
      expect(PacksKept.isWorthReading(packed, change)).toBe(worth);
    });
});
