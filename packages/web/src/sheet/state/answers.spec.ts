import { TestBed } from '@angular/core/testing';
import type { Box, SearchAnswer, SearchRequest, TableSummary } from '@usual-needle/contract';
import { Observable, type Subscriber } from 'rxjs';
import { Api } from '../../services/api';
import { Answers } from './answers';
import { SheetStore } from './sheet-store';
import { Status } from './status';

const TABLE = {
  id: 1,
  name: 'T',
  rows: 100,
  version: 1,
  change: 1,
  changedAt: '',
  columns: ['A', 'B'].map((name) => ({ name, kind: 'text' })),
} as TableSummary;
const BOX: Box = { format: 'usual-needle box', version: 1, threaded: ['A'] };

const ANSWER: SearchAnswer = {
  total: 100,
  matched: 0,
  narrowed: 100,
  shown: 0,
  searched: 100,
  change: 1,
  asked: true,
  complete: true,
  overtaken: false,
  columnTallies: [0, 0],
  trace: [],
  traceStarts: [],
  strands: [],
  keywords: [],
  notices: [],
  problem: null,
  offset: 0,
  rows: [],
  milliseconds: 1,
};

interface Asked {
  readonly request: SearchRequest;
  readonly to: Subscriber<SearchAnswer>;
  given: boolean;
}

describe('A5, A7: late and lost answers', () => {
  let store: SheetStore;
  let answers: Answers;
  let status: Status;
  let asked: Asked[];

  beforeEach(() => {
    asked = [];
    const api = {
      search: (_: number, request: SearchRequest) =>
        new Observable<SearchAnswer>((to) => {
          const one: Asked = { request, to, given: false };
          asked.push(one);
          return () => (one.given = true);
        }),
    };
    jasmine.clock().install();
    TestBed.configureTestingModule({ providers: [SheetStore, Answers, Status, { provide: Api, useValue: api }] });
    store = TestBed.inject(SheetStore);
    answers = TestBed.inject(Answers);
    status = TestBed.inject(Status);
    store.open(TABLE, BOX, BOX);
    jasmine.clock().tick(0);
  });
  afterEach(() => {
    TestBed.resetTestingModule();
    jasmine.clock().uninstall();
  });

  const last = (): Asked => asked.at(-1)!;
  const textOf = ({ request }: Asked): string => request.question.strands![0].text;
  const answer = (one: Asked, matched: number, more: Partial<SearchAnswer> = {}): void => {
    one.to.next({ ...ANSWER, matched, shown: matched, ...more });
    one.to.complete();
  };
  const type = (text: string): void => {
    store.type(0, text);
    jasmine.clock().tick(0);
  };

  it('each key is asked in its own task, and the question before is given up', () => {
    type('u');
    type('um');
    expect(asked.map(textOf)).toEqual(['', 'u', 'um']);
    expect(asked.map(({ given }) => given)).toEqual([true, true, false]);
    answer(last(), 7);
    expect([answers.answer()!.matched, answers.answered()]).toEqual([7, 'um']);
  });

  it('an answer that comes after its question was given up is not shown', () => {
    type('u');
    const late = last();
    type('um');
    answer(last(), 7);
    late.to.next({ ...ANSWER, matched: 99 });
    expect(answers.answer()!.matched).toBe(7);
  });

  it('what is on show says which question it is of, as soon as another is asked', () => {
    answer(last(), 0, { asked: false, shown: 100 });
    expect(answers.behind()).toBeFalse();
    type('um');
    expect([answers.behind(), answers.textBehind()]).toEqual([true, true]);
    answer(last(), 7);
    expect(answers.behind()).toBeFalse();
    store.update({ flip: true });
    expect([answers.behind(), answers.textBehind()]).toEqual([true, false]);
    expect(status.said()).toBe('');
    answer(last(), 7, { shown: 93 });
    expect(status.said()).toBe('93 of 100 rows on show: the others, 7 match');
  });

  it('the columns of the tallies are those that were asked for, not those that are shown since', () => {
    type('um');
    answer(last(), 7);
    store.toggleShown('A');
    jasmine.clock().tick(0);
    expect(store.layout().map(({ name }) => name)).toEqual(['B']);
    expect(answers.answeredColumns()).toEqual(['A', 'B']);
    answer(last(), 7, { columnTallies: [0] });
    expect(answers.answeredColumns()).toEqual(['B']);
  });

  it('an overtaken answer is none', () => {
    type('um');
    answer(last(), 7);
    type('umb');
    answer(last(), 0, { overtaken: true });
    expect([answers.answered(), answers.answer()!.matched]).toEqual(['um', 7]);
  });

  it('where what is opened cannot be read, there are the rows of nothing typed, and it is said', () => {
    const problem = { strand: 0, kind: 'refused', message: 'This bracket is not closed.', start: 0, end: 1 } as const;
    store.open(TABLE, BOX, { ...BOX, flip: true, strands: [{ verb: 'find', text: '/(/' }] });
    jasmine.clock().tick(0);
    answer(last(), 0, { problem } as Partial<SearchAnswer>);
    expect([textOf(last()), last().request.question.flip]).toEqual(['', undefined]);
    answer(last(), 0, { asked: false, shown: 100 });
    expect(answers.answer()!.shown).toBe(100);
    expect([answers.problem()!.message, answers.behind()]).toEqual(['This bracket is not closed.', true]);
    // What others change meanwhile is asked of the rows on show.
    answers.askAgain();
    expect(textOf(last())).toBe('');
    answer(last(), 0, { asked: false, shown: 101 });
    expect([answers.answer()!.shown, answers.problem()!.message]).toEqual([101, 'This bracket is not closed.']);
    type('um');
    answer(last(), 7);
    expect([answers.problem(), answers.behind(), answers.answer()!.matched]).toEqual([undefined, false, 7]);
  });

  it('after a text that cannot be read, changes of others are asked of the rows on show', () => {
    type('um');
    answer(last(), 7);
    type('um /(/');
    const problem = { strand: 0, kind: 'refused', message: 'This bracket is not closed.', start: 4, end: 5 } as const;
    answer(last(), 0, { problem } as Partial<SearchAnswer>);
    answers.askAgain();
    expect(textOf(last())).toBe('um');
    answer(last(), 8);
    expect([answers.answer()!.matched, answers.problem()?.message]).toEqual([8, 'This bracket is not closed.']);
    // But what was typed since is not given up for it.
    type('um /(a)/');
    answers.askAgain();
    expect(textOf(last())).toBe('um /(a)/');
    answer(last(), 3);
    expect([answers.answer()!.matched, answers.problem(), answers.behind()]).toEqual([3, undefined, false]);
  });

  it('where nothing was on show yet, and nothing typed could not be asked either, it is asked again', () => {
    const problem = { strand: 0, kind: 'refused', message: 'This bracket is not closed.', start: 0, end: 1 } as const;
    store.open(TABLE, BOX, { ...BOX, strands: [{ verb: 'find', text: '/(/' }] });
    jasmine.clock().tick(0);
    answer(last(), 0, { problem } as Partial<SearchAnswer>);
    last().to.error(new Error('lost'));
    answers.askAgain();
    expect(textOf(last())).toBe('');
    answer(last(), 0, { asked: false, shown: 100 });
    expect([answers.answer()!.shown, answers.problem()!.message]).toEqual([100, 'This bracket is not closed.']);
  });

  it('a pattern that cannot be read leaves the rows, and says where it stops', () => {
    type('um');
    answer(last(), 7);
    type('um /(/');
    const problem = { strand: 0, kind: 'refused', message: 'This bracket is not closed.', start: 4, end: 5 } as const;
    answer(last(), 0, { problem } as Partial<SearchAnswer>);
    expect([answers.answered(), answers.problem()!.message]).toEqual(['um', 'This bracket is not closed.']);
    type('um');
    answer(last(), 7);
    expect(answers.problem()).toBeUndefined();
  });

  it('a failure keeps the rows and is said; it goes on trying until the server is back', () => {
    type('um');
    answer(last(), 7);
    type('umb');
    for (let i = 0; i < 4; i++) {
      last().to.error({ status: 0 });
      jasmine.clock().tick(4_000);
    }
    expect([answers.answered(), answers.answer()!.matched]).toEqual(['um', 7]);
    expect(answers.error()).toContain('does not answer');
    const before = asked.length;
    jasmine.clock().tick(3_000);
    expect(asked.length).toBeGreaterThanOrEqual(before);
    answer(last(), 5);
    expect([answers.answered(), answers.error()]).toEqual(['umb', undefined]);
  });

  it('one that was asked wrongly is not tried again', () => {
    type('um');
    last().to.error({ status: 422, error: { title: 'No', detail: 'There is no column “A”.' } });
    const before = asked.length;
    jasmine.clock().tick(60_000);
    expect(asked.length).toBe(before);
    expect(answers.error()).toContain('There is no column');
  });

  it('an answer that is not whole is shown, and asked on until it is', () => {
    type('um');
    answer(last(), 3, { searched: 50, complete: false });
    expect(status.line()!.searched).toBe('50 rows searched so far');
    answer(last(), 7);
    expect(status.line()).toEqual(jasmine.objectContaining({ matched: '7 of 100', searched: 'every row searched' }));
    expect(asked.filter((one) => textOf(one) === 'um').length).toBe(2);
  });

  it('a box that searches on Enter waits for it; what is chosen or put does not', () => {
    store.update({ searches: 'on Enter' });
    jasmine.clock().tick(0);
    const before = asked.length;
    type('um');
    jasmine.clock().tick(5_000);
    expect(asked.length).toBe(before);
    answers.askNow();
    expect([asked.length, textOf(last())]).toEqual([before + 1, 'um']);
    store.type(0, '', true);
    jasmine.clock().tick(0);
    expect([asked.length, textOf(last())]).toEqual([before + 2, '']);
  });

  it('a box that searches after a pause asks once', () => {
    store.update({ searches: 'after a pause' });
    jasmine.clock().tick(0);
    const before = asked.length;
    for (const text of ['u', 'um', 'umb']) {
      type(text);
      jasmine.clock().tick(100);
    }
    expect(asked.length).toBe(before);
    jasmine.clock().tick(400);
    expect([asked.length, textOf(last())]).toEqual([before + 1, 'umb']);
  });

  it('A9: what nothing is found of, and what asks to be typed into', () => {
    store.update({ nothingTyped: 'no row' });
    answer(last(), 0, { asked: false });
    expect([status.prompting(), status.nothing()]).toEqual([true, false]);
    store.update({ effect: 'mark in place' });
    answer(last(), 0, { asked: false });
    expect([status.prompting(), status.nothing()]).toEqual([true, false]);
    // Pickers that leave nothing are a reason; a prompt would be none.
    store.update({ pickers: [{ column: 'A', values: ['x'] }] });
    answer(last(), 0, { asked: false, narrowed: 0 });
    expect([status.prompting(), status.nothing()]).toEqual([false, true]);
    expect(status.line()!.matched).toBe('0 of 0');
    type('um');
    answer(last(), 0);
    expect([status.prompting(), status.nothing()]).toEqual([false, true]);
  });
});
