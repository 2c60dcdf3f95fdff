import { TestBed } from '@angular/core/testing';
import type { Change, Clash, EditDone, EditRequest } from '@usual-needle/contract';
import { type Observable, Subject } from 'rxjs';
import { Api } from '../../services/api';
import { Live } from '../live/live';
import { SheetStore } from '../state/sheet-store';
import { Edits } from './edits';
import { KeptEdits, type WaitingEdit } from './kept-edits';

/** A server that answers when it is told to. */
class FakeApi {
  readonly asked: { readonly request: EditRequest; readonly reply: Subject<EditDone> }[] = [];
  readonly undone: number[] = [];

  edit(_table: number, request: EditRequest): Observable<EditDone> {
    const reply = new Subject<EditDone>();
    this.asked.push({ request, reply });
    return reply;
  }

  undoChange(_table: number, number: number): Observable<Change> {
    this.undone.push(number);
    const reply = new Subject<Change>();
    queueMicrotask(() => {
      reply.next({ number: number + 100 } as Change);
      reply.complete();
    });
    return reply;
  }

  async answer(at: number, change: number): Promise<void> {
    this.asked[at].reply.next({ change, at: '2026-11-25T10:00:00Z', added: [] });
    this.asked[at].reply.complete();
    await settled();
  }

  async fail(at: number, status: number, error: object = {}): Promise<void> {
    this.asked[at].reply.error({ status, error });
    await settled();
  }
}

/** Waits until what follows a promise has happened. */
async function settled(): Promise<void> {
  for (let i = 0; i < 20; i++) await Promise.resolve();
}

class FakeKept {
  readonly there = new Map<string, WaitingEdit>();
  write(_table: number, waiting: WaitingEdit): boolean {
    this.there.set(waiting.request.key, waiting);
    return true;
  }
  forget(_table: number, key: string): void {
    this.there.delete(key);
  }
  read(): WaitingEdit[] {
    return [...this.there.values()];
  }
}

describe('edits on their way', () => {
  let api: FakeApi;
  let kept: FakeKept;
  let edits: Edits;
  const cell = (id: number, was: string, now: string, column = 'Status'): Omit<EditRequest, 'key'> => ({
    kind: 'edited',
    columns: [column],
    changed: [{ id, was: [was], now: [now] }],
  });
  const clash = (id: number, theirs: string | null, column: string | null = 'Status'): Clash => ({
    id,
    column,
    was: 'a',
    theirs,
    yours: 'b',
    who: 'T. Kessel',
    at: null,
  });
  const over = (id: number): string | undefined => edits.over().get(id)?.get('Status')?.text;

  function made(): void {
    TestBed.configureTestingModule({
      providers: [
        Edits,
        { provide: Api, useValue: api },
        { provide: KeptEdits, useValue: kept },
        SheetStore,
        { provide: Live, useValue: { back: new Subject<void>(), lastKnown: 7 } },
      ],
    });
    edits = TestBed.inject(Edits);
    edits.open(1);
  }
  beforeEach(() => {
    api = new FakeApi();
    kept = new FakeKept();
    made();
  });

  it('go out one after the other, are on show at once, and are kept until they are there', async () => {
    edits.add(cell(1, 'a', 'b'), 'one');
    edits.add(cell(2, 'a', 'c'), 'two');
    await settled();
    expect([api.asked.length, kept.there.size, over(1), over(2)]).toEqual([1, 2, 'b', 'c']);
    await api.answer(0, 5);
    expect([api.asked.length, kept.there.size, edits.waiting().length]).toEqual([2, 1, 1]);
    // The rows on show may be from before: it stays drawn over them until they know of the change.
    expect(over(1)).toBe('b');
    edits.settled(5);
    expect(over(1)).toBeUndefined();
    await api.answer(1, 6);
    expect(edits.done().map(({ number, said }) => [number, said])).toEqual([
      [5, 'one'],
      [6, 'two'],
    ]);
  });

  it('wait while the server is away, and go out again with the same key', async () => {
    const key = edits.add(cell(1, 'a', 'b'), 'one');
    await settled();
    await api.fail(0, 0);
    expect([edits.away(), edits.waiting().length, kept.there.has(key)]).toEqual([true, 1, true]);
    (TestBed.inject(Live).back as Subject<void>).next();
    await settled();
    expect(api.asked[1].request.key).toBe(key);
    await api.answer(1, 5);
    expect([edits.away(), edits.waiting().length, kept.there.size]).toEqual([false, 0, 0]);
  });

  it('left from before go out when their table is opened', async () => {
    edits.add(cell(1, 'a', 'b'), 'one');
    await settled();
    TestBed.resetTestingModule();
    api = new FakeApi();
    made();
    await settled();
    expect(api.asked.map(({ request }) => request.changed![0].now)).toEqual([['b']]);
  });

  it('that clash are put aside, and mine is written over what was shown', async () => {
    edits.add(cell(1, 'a', 'b'), 'one');
    await settled();
    await api.fail(0, 409, { clashes: [clash(1, 'theirs')], clashing: 1 });
    expect([edits.waiting().length, edits.clashing().length, over(1)]).toEqual([0, 1, 'b']);
    edits.writeMine(edits.clashing()[0]);
    await settled();
    expect(api.asked[1].request.changed).toEqual([{ id: 1, was: ['theirs'], now: ['b'] }]);
    expect(edits.clashing()).toEqual([]);
  });

  it('keep theirs, and write what does not clash', async () => {
    const two = { id: 2, was: ['a'], now: ['b'] };
    edits.add({ ...cell(1, 'a', 'b'), changed: [{ id: 1, was: ['a'], now: ['b'] }, two] }, 'both');
    await settled();
    await api.fail(0, 409, { clashes: [clash(1, 'theirs')], clashing: 1 });
    edits.keepTheirs(edits.clashing()[0]);
    await settled();
    expect(api.asked[1].request.changed).toEqual([two]);
    expect(over(1)).toBeUndefined();
  });

  it('to rows that have gone are let be, and nothing is sent', async () => {
    edits.add(cell(1, 'a', 'b'), 'one');
    await settled();
    await api.fail(0, 409, { clashes: [clash(1, null, null)], clashing: 1 });
    edits.keepTheirs(edits.clashing()[0]);
    await settled();
    expect([api.asked.length, edits.clashing().length, kept.there.size]).toEqual([1, 0, 0]);
  });

  it('are done when they were made here, not when the server has them', async () => {
    const before = performance.now();
    edits.add(cell(1, 'Held', 'Returned'), 'Status');
    const between = performance.now();
    while (performance.now() <= between) await settled();
    await api.answer(0, 5);
    expect(edits.done()[0].at).toBeGreaterThanOrEqual(before);
    expect(edits.done()[0].at).toBeLessThanOrEqual(between);
  });

  it('that are undone before they are there are undone once they are; those not yet gone are dropped', async () => {
    edits.add(cell(1, 'a', 'b'), 'one');
    edits.add(cell(2, 'a', 'c'), 'two');
    await settled();
    await edits.undo();
    expect([edits.waiting().length, over(2)]).toEqual([1, undefined]);
    await edits.undo();
    expect(api.undone).toEqual([]);
    await api.answer(0, 5);
    expect(api.undone).toEqual([5]);
    await settled();
    expect([edits.done().length, edits.undone().map(({ number }) => number)]).toEqual([0, [105]]);
    await edits.redo();
    expect(api.undone).toEqual([5, 105]);
  });

  it('that remove a row which was just written from here do not clash with that', async () => {
    edits.add(cell(1, 'a', 'b'), 'one');
    const removed = [1, 2].map((id) => ({ id, seen: 3 }));
    edits.add({ kind: 'removed', columns: [], removed }, 'two');
    await settled();
    await api.answer(0, 5);
    expect(api.asked[1].request.removed).toEqual([
      { id: 1, seen: 5 },
      { id: 2, seen: 3 },
    ]);
  });

  it('that the server refuses do not stand in the way of the next', async () => {
    edits.add(cell(1, 'a', 'b', 'Gone'), 'one');
    edits.add(cell(2, 'a', 'c'), 'two');
    await settled();
    await api.fail(0, 422, { title: 'This cannot be written' });
    expect([api.asked.length, edits.waiting().length, kept.there.size]).toEqual([2, 1, 2]);
    // What was typed is kept to be seen, until its keeper lets it go.
    const [refused] = edits.clashing();
    expect([refused.why, refused.request.changed?.[0].now]).toEqual(['This cannot be written', ['b']]);
    edits.letGo(refused);
    expect([edits.clashing().length, kept.there.size]).toEqual([0, 1]);
  });
});
