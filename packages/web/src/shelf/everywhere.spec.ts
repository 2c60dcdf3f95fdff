import { TestBed } from '@angular/core/testing';
import type { BoxSummary, SearchAnswer, ShelfContent, TableSummary } from '@usual-needle/contract';
import { Subject } from 'rxjs';
import { ago } from '../common/ago';
import { Api } from '../services/api';
import { Everywhere, questionsOf, questionWith } from './everywhere';

const COLUMNS = [
  { name: 'No', kind: 'text' },
  { name: 'Thing', kind: 'text' },
  { name: 'Value', kind: 'number' },
] as const;
const table = (id: number): TableSummary => ({ id, name: `T${id}`, columns: COLUMNS }) as unknown as TableSummary;
const box = (id: number, tableId: number, more: object): BoxSummary =>
  ({ id, tableId, name: `B${id}`, box: { format: 'usual-needle box', version: 1, ...more } }) as unknown as BoxSummary;

describe('what is typed on the shelf', () => {
  const shelf: ShelfContent = {
    tables: [table(1), table(2)],
    boxes: [
      box(4, 1, {
        threaded: ['Thing', 'Gone'],
        strands: [
          { verb: 'find', text: 'kept', reading: 'wildcards' },
          { verb: 'minus', text: 'wool' },
        ],
      }),
      box(5, 1, {
        threaded: ['No'],
        effect: 'leave matches out',
        flip: true,
        pickers: [{ column: 'Gone', values: ['x'] }],
      }),
    ],
    deleted: [],
    demo: null,
    shared: [],
  };

  it('is asked of every box, and of a new box on each table; best rows are those of the first', () => {
    expect(questionsOf(shelf).map(({ key, columns }) => [key, columns])).toEqual([
      ['box 4', ['No', 'Thing']],
      ['box 5', []],
      ['table 1', []],
      ['table 2', ['No', 'Thing']],
    ]);
  });

  it('is asked by the names that columns have now, as the sheet asks it', () => {
    const columns = [{ name: 'Item', kind: 'text', formerly: ['Thing'] }] as const;
    const renamed = { ...table(1), columns } as unknown as TableSummary;
    const [asked] = questionsOf({
      tables: [renamed],
      boxes: [box(4, 1, { threaded: ['Thing', 'Gone'] })],
      deleted: [],
      demo: null,
      shared: [],
    });
    expect([asked.columns, questionWith(asked, 'red').threaded]).toEqual([['Item'], ['Item']]);
  });

  it('takes the place of what a box finds, and leaves the rest of it as it is defined', () => {
    const [first, second, fresh] = questionsOf(shelf).map((asked) => questionWith(asked, 'red'));
    expect(first).toEqual({
      threaded: ['Thing'],
      strands: [
        { verb: 'find', text: 'red', reading: 'wildcards' },
        { verb: 'minus', text: 'wool' },
      ],
      effect: 'show only matches',
    });
    expect(second).toEqual({
      threaded: ['No'],
      strands: [{ verb: 'find', text: 'red' }],
      pickers: [],
      effect: 'show only matches',
    });
    expect(fresh.threaded).toEqual(['No', 'Thing']);
  });
});

describe('a shelf of very many tables', () => {
  it('is asked a part at a time, so that none is turned away, and each once', () => {
    jasmine.clock().install();
    const asked: { table: number; answers: Subject<SearchAnswer> }[] = [];
    const api = {
      together: <T>(asks: T): T => asks,
      search: (id: number) => {
        const answers = new Subject<SearchAnswer>();
        asked.push({ table: id, answers });
        return answers;
      },
    };
    TestBed.configureTestingModule({ providers: [Everywhere, { provide: Api, useValue: api }] });
    const everywhere = TestBed.inject(Everywhere);
    const tables = Array.from({ length: 250 }, (_, i) => table(i + 1));
    const questions = questionsOf({ tables, boxes: [], deleted: [], demo: null, shared: [] });
    everywhere.search('red', questions);
    expect(asked.length).toBe(100);
    // The same again is not asked again.
    everywhere.search('red', questions);
    expect(asked.length).toBe(100);
    for (let i = 0; i < asked.length; i++) {
      asked[i].answers.next({ matched: 1, complete: true, milliseconds: 0, rows: [] } as unknown as SearchAnswer);
      asked[i].answers.complete();
    }
    jasmine.clock().tick(100);
    expect(new Set(asked.map(({ table: id }) => id)).size).toBe(250);
    expect(asked.length).toBe(250);
    // What is out of sight is drawn once typing rests.
    expect(everywhere.told().size).toBe(250);
    expect(everywhere.toldLater().size).toBe(0);
    jasmine.clock().tick(300);
    expect(everywhere.toldLater()).toBe(everywhere.told());
    expect(everywhere.whole()).toEqual(jasmine.objectContaining({ rows: 250, tables: 250, complete: true, failed: 0 }));
    jasmine.clock().uninstall();
  });
});

describe('when something happened', () => {
  const now = new Date('2026-11-25T15:00:00').getTime();
  const cases: [said: string, moment: string][] = [
    ['just now', '2026-11-25T14:59:30'],
    ['2 min ago', '2026-11-25T14:57:10'],
    ['23 Nov', '2026-11-23T09:00:00'],
    ['23 Nov 2025', '2025-11-23T09:00:00'],
  ];
  for (const [said, moment] of cases) it(said, () => expect(ago(moment, now)).toBe(said));
  it('today', () => expect(ago('2026-11-25T09:05:00', now)).toMatch(/^today .*9:05/));
});
