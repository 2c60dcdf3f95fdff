import type { TableSummary } from '@usual-needle/contract';
import { countWords, type BorrowDraft, ownColumns, requestOf } from './borrowing';
import { lentAt } from './lent-at';

const DRAFT: BorrowDraft = { table: 2, key: 'Found at', matches: 'Name', several: 'first', columns: ['Town', 'Depot'] };

describe('the sentence of a borrowing', () => {
  for (const [counts, words] of [
    [
      { rows: 4_120, found: 4_038, twice: 3 },
      '4,038 of 4,120 rows find one, 82 find none, 3 values of Name stand in several rows.',
    ],
    [{ rows: 9, found: 8, twice: 1 }, '8 of 9 rows find one, 1 finds none, 1 value of Name stands in several rows.'],
    [{ rows: 9, found: 9, twice: 0 }, '9 of 9 rows find one.'],
    [{ rows: 0, found: 0, twice: 0 }, 'There are no rows to look up for yet.'],
  ] as const)
    it(`says what it comes to: ${words}`, () => expect(countWords(counts, 'Name')).toBe(words));

  it('asks for nothing before it is whole', () => {
    for (const missing of [{ table: 0 }, { key: '' }, { matches: '' }, { columns: [] }])
      expect(requestOf({ ...DRAFT, ...missing })).toBeUndefined();
    expect(requestOf(DRAFT)).toEqual({ ...DRAFT, columns: [{ column: 'Town' }, { column: 'Depot' }] });
  });

  it('takes only columns that are a table’s own', () => {
    const borrows = { table: 1, key: 'A', matches: 'B', column: 'C', several: 'first' } as const;
    const columns = [
      { name: 'A', kind: 'text' as const },
      { name: 'C', kind: 'text' as const, borrows },
    ];
    expect(ownColumns({ columns } as TableSummary).map(({ name }) => name)).toEqual(['A']);
  });

  it('leads to the rows that lend, whatever signs are in their key', () => {
    const borrows = { table: 7, key: 'Found at', matches: 'Näme & no.', column: 'Town', several: 'first' } as const;
    const address = new URL(lentAt(borrows, ' 50% "Quay" & more '), 'http://here');
    expect(address.pathname).toBe('/table/7');
    expect(address.searchParams.get('q')).toBe('50% "Quay" & more');
    expect(JSON.parse(address.searchParams.get('as')!)).toEqual({
      threaded: ['Näme & no.'],
      reading: 'plain text',
      where: 'whole cell',
    });
  });
});
