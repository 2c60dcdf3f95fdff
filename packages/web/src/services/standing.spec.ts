import { TestBed } from '@angular/core/testing';
import type { SearchAnswer, SearchRequest } from '@usual-needle/contract';
import { of, type Observable } from 'rxjs';
import { Standing } from './standing';

/** A socket that a test opens, answers by and closes. */
class FakeSocket {
  static readonly all: FakeSocket[] = [];
  static readonly OPEN = 1;
  readyState = 0;
  readonly sent: string[] = [];
  onopen?: () => void;
  onclose?: () => void;
  onmessage?: (event: { data: string }) => void;

  constructor() {
    FakeSocket.all.push(this);
  }
  send(text: string): void {
    this.sent.push(text);
  }
  close(): void {
    this.drop();
  }
  open(): void {
    this.readyState = 1;
    this.onopen?.();
  }
  drop(): void {
    this.readyState = 3;
    this.onclose?.();
  }
}

describe('A7: the standing connection', () => {
  const real = WebSocket;
  const request = { question: { threaded: [] } } as unknown as SearchRequest;
  const byRequest = (): Observable<SearchAnswer> => of({ matched: -1 } as SearchAnswer);
  let standing: Standing;
  const socket = (): FakeSocket => FakeSocket.all.at(-1)!;

  beforeEach(() => {
    jasmine.clock().install();
    FakeSocket.all.length = 0;
    (window as { WebSocket: unknown }).WebSocket = FakeSocket;
    standing = TestBed.inject(Standing);
  });
  afterEach(() => {
    TestBed.resetTestingModule();
    (window as { WebSocket: unknown }).WebSocket = real;
    jasmine.clock().uninstall();
  });

  const told = (asked = standing.search({ table: 1 }, request, byRequest)): (number | string)[] => {
    const list: (number | string)[] = [];
    asked.subscribe({
      next: ({ matched }) => list.push(matched),
      error: ({ status }) => list.push(`error ${status}`),
      complete: () => list.push('end'),
    });
    return list;
  };

  it('is asked by where it is there at the time of asking, and else a request is made', () => {
    const asked = standing.search({ table: 1 }, request, byRequest);
    expect(told(asked)).toEqual([-1, 'end']);
    socket().open();
    const list = told(asked);
    expect(list).toEqual([]);
    const { id } = JSON.parse(socket().sent[0]) as { id: number };
    socket().onmessage!({ data: `${id} 200 {"matched":3}` });
    expect(list).toEqual([3, 'end']);
  });

  it('tells who waits when it drops, comes back by itself, and the same question is then asked anew', () => {
    socket().open();
    const asked = standing.search({ table: 1 }, request, byRequest);
    const list = told(asked);
    socket().drop();
    expect(list).toEqual(['error 0']);
    expect(told(asked)).toEqual([-1, 'end']);
    jasmine.clock().tick(300);
    expect(FakeSocket.all.length).toBe(2);
    socket().open();
    told(asked);
    expect(socket().sent.length).toBe(1);
  });

  it('waits longer from failure to failure', () => {
    for (const [after, sockets] of [
      [250, 2],
      [999, 2],
      [1, 3],
      [4_000, 4],
      [15_000, 5],
    ]) {
      if (socket().readyState !== 3) socket().drop();
      jasmine.clock().tick(after);
      expect(FakeSocket.all.length).withContext(`${after}`).toBe(sockets);
    }
  });

  it('puts what is asked together in one message, or in as many as it takes', () => {
    socket().open();
    const lists: (number | string)[][] = [];
    standing.together(() => {
      lists.push(told(), told());
      expect(socket().sent).toEqual([]);
    });
    const ids = (text: string): number[] => (JSON.parse(text) as { id: number }[]).map(({ id }) => id);
    expect(socket().sent.map((text) => ids(text).length)).toEqual([2]);
    for (const id of ids(socket().sent[0])) socket().onmessage!({ data: `${id} 200 {"matched":${id}}` });
    expect(lists.map((list) => list[1])).toEqual(['end', 'end']);
    // Several replies may come in one message, too.
    const [third, fourth] = [told(), told()];
    const [a, b] = socket()
      .sent.slice(-2)
      .map((text) => (JSON.parse(text) as { id: number }).id);
    socket().onmessage!({ data: `${b} 422 {"title":"No"}\n${a} 200 {"matched":5}` });
    expect([third, fourth]).toEqual([[5, 'end'], ['error 422']]);
    // As many questions as a message may put, and as long as it may be.
    socket().sent.length = 0;
    standing.together(() => {
      for (let i = 0; i < 250; i++) told();
    });
    expect(socket().sent.map((text) => ids(text).length)).toEqual([200, 50]);
    socket().sent.length = 0;
    const long = { question: { threaded: ['x'.repeat(40_000)] } } as unknown as SearchRequest;
    standing.together(() => {
      for (let i = 0; i < 4; i++) told(standing.search({ table: 1 }, long, byRequest));
    });
    expect(socket().sent.map((text) => ids(text).length)).toEqual([2, 2]);
    // What is asked afterwards goes at once, and by itself.
    socket().sent.length = 0;
    told();
    expect(socket().sent.length).toBe(1);
    expect(socket().sent[0]).toMatch(/^\{/);
  });

  it('tells all that asked together when it drops in the middle, and who has an answer keeps it', () => {
    socket().open();
    const lists: (number | string)[][] = [];
    standing.together(() => lists.push(told(), told(), told()));
    const [{ id }] = JSON.parse(socket().sent[0]) as { id: number }[];
    socket().onmessage!({ data: `${id} 200 {"matched":1}` });
    socket().drop();
    expect(lists).toEqual([[1, 'end'], ['error 0'], ['error 0']]);
    // While there is none each asks by a request of its own.
    standing.together(() => lists.push(told()));
    expect(lists[3]).toEqual([-1, 'end']);
  });

  it('gives answers to who asked, problems too, and none to who has gone', () => {
    socket().open();
    const first = told();
    const second = told();
    const gone: unknown[] = [];
    standing
      .search({ table: 1 }, request, byRequest)
      .subscribe((answer) => gone.push(answer))
      .unsubscribe();
    const ids = socket().sent.map((text) => (JSON.parse(text) as { id: number }).id);
    socket().onmessage!({ data: `${ids[2]} 200 {"matched":9}` });
    socket().onmessage!({ data: `${ids[1]} 422 {"title":"No"}` });
    socket().onmessage!({ data: `${ids[0]} 200 {"matched":1}` });
    socket().onmessage!({ data: '-1 400 {}' });
    socket().onmessage!({ data: 'nonsense' });
    expect([first, second, gone]).toEqual([[1, 'end'], ['error 422'], []]);
  });
});
