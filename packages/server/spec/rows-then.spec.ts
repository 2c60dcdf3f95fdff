import type { Change, StoredRow } from '@usual-needle/contract';
import { rowsThen } from '../dist/data/rows-then.js';
import type { Tables } from '../dist/data/tables.js';

/** A table that is changed while it is read: what is read, and what is committed just after. */
interface Moment {
  readonly read: readonly [id: number, text: string][];
  readonly then: readonly [id: number, before: string | null][];
}

async function told(moments: readonly Moment[]): Promise<string[][]> {
  const log: Change[] = [];
  const tables = {
    async *all(): AsyncGenerator<StoredRow[]> {
      for (const { read, then } of moments) {
        if (then.length > 0) {
          const rowChanges = then.map(([id, text]) => ({
            id,
            before: text === null ? null : [text],
            after: ['later'],
          }));
          log.push({ number: log.length + 2, rowChanges } as unknown as Change);
        }
        if (read.length > 0) yield await Promise.resolve(read.map(([id, text]) => ({ id, version: 1, cells: [text] })));
      }
    },
    async *log(_id: number, after: number): AsyncGenerator<Change> {
      yield* await Promise.resolve(log.filter(({ number }) => number > after));
    },
  };
  const all: string[][] = [];
  for await (const rows of rowsThen(tables as unknown as Tables, 1, 1))
    all.push(rows.map(({ id, cells }) => `${id} ${cells[0]}`));
  return all;
}

describe('rows as they were, of a table that is changed while it is read', () => {
  const cases: [what: string, moments: Moment[], rows: string[][]][] = [
    [
      'nothing happens',
      [
        { read: [[1, 'a']], then: [] },
        { read: [[2, 'b']], then: [] },
      ],
      [['1 a'], ['2 b']],
    ],
    ['a row is changed before it is read', [{ read: [[1, 'later']], then: [[1, 'a']] }], [['1 a']]],
    [
      'a row is changed after it was read',
      [
        { read: [[1, 'a']], then: [] },
        { read: [[2, 'b']], then: [[1, 'a']] },
      ],
      [['1 a'], ['2 b']],
    ],
    [
      'all that is read last came since',
      [
        { read: [[1, 'a']], then: [] },
        { read: [[2, 'n']], then: [[2, null]] },
      ],
      [['1 a']],
    ],
    ['a row is removed before it is read', [{ read: [[2, 'b']], then: [[1, 'a']] }], [['1 a', '2 b']]],
    [
      'the last row is removed before it is read',
      [
        { read: [[1, 'a']], then: [] },
        { read: [], then: [[2, 'b']] },
      ],
      [['1 a'], ['2 b']],
    ],
    [
      'all are removed before any is read',
      [
        {
          read: [],
          then: [
            [2, 'b'],
            [1, 'a'],
          ],
        },
      ],
      [['1 a', '2 b']],
    ],
    ['there is nothing', [], []],
  ];
  for (const [what, moments, rows] of cases) it(what, async () => expect(await told(moments)).toEqual(rows));
});
