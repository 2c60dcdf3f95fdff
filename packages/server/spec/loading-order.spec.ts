import type { Column } from '@usual-needle/contract';
import { inLoadingOrder } from '../dist/threads/loading-order.js';

const OWN: Column = { name: 'No', kind: 'text' };
const borrowed = (table: number): Column => ({
  ...OWN,
  borrows: { table, key: 'No', matches: 'No', column: 'No', several: 'first' } as Column['borrows'],
});

describe('at a start', () => {
  const cases: [what: string, tables: [id: number, ...columns: Column[]][], packed: number[], order: number[]][] = [
    [
      'tables come as they are listed',
      [
        [1, OWN],
        [2, OWN],
      ],
      [],
      [1, 2],
    ],
    [
      'those with a pack need not wait for those that are built',
      [
        [1, OWN],
        [2, OWN],
        [3, OWN],
      ],
      [3, 2],
      [2, 3, 1],
    ],
    [
      'a lender comes before its borrower, built or not',
      [
        [1, borrowed(3)],
        [2, OWN],
        [3, OWN],
      ],
      [1],
      [3, 1, 2],
    ],
    [
      'a packed one that borrows nothing holds up none',
      [
        [1, borrowed(3)],
        [2, OWN],
        [3, OWN],
      ],
      [1, 2],
      [2, 3, 1],
    ],
    [
      'what was removed borrows nothing',
      [
        [1, OWN],
        [2, { ...borrowed(1), removed: true }],
      ],
      [2],
      [2, 1],
    ],
  ];
  for (const [what, tables, packed, order] of cases)
    it(what, () => {
      const listed = tables.map(([id, ...columns]) => ({ id, columns }));
      expect(inLoadingOrder(listed, new Set(packed)).map(({ id }) => id)).toEqual(order);
    });
});
