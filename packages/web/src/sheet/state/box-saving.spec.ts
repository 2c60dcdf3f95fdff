import { Location } from '@angular/common';
import { provideLocationMocks } from '@angular/common/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { Box, BoxNews, StoredBox, TableSummary } from '@usual-needle/contract';
import { Remarks } from '../../services/remarks';
import { Live } from '../live/live';
import { BoxSaving } from './box-saving';
import { Subject } from 'rxjs';
import { SheetStore } from './sheet-store';

const TABLE = {
  id: 1,
  name: 'Things',
  rows: 3,
  version: 1,
  change: 1,
  changedAt: '',
  columns: [
    { name: 'Item', kind: 'text' },
    { name: 'Status', kind: 'choice' },
  ],
} as TableSummary;
const BOX: Box = { format: 'usual-needle box', version: 1, name: 'Desk', threaded: ['Item'] };

function storedBox(version: number, box: Box = BOX): StoredBox {
  return { id: 7, tableId: 1, name: box.name ?? '', version, changedAt: '', box } as StoredBox;
}

describe('A2: keeping a box', () => {
  let store: SheetStore;
  let boxSaving: BoxSaving;
  let http: HttpTestingController;
  let remarks: Remarks;
  let news: Subject<BoxNews>;
  const said = (): string => remarks.current()?.text ?? '';

  beforeEach(() => {
    news = new Subject();
    TestBed.configureTestingModule({
      providers: [
        SheetStore,
        BoxSaving,
        { provide: Live, useValue: { boxes: news } },
        provideHttpClient(),
        provideHttpClientTesting(),
        provideRouter([]),
        provideLocationMocks(),
      ],
    });
    store = TestBed.inject(SheetStore);
    boxSaving = TestBed.inject(BoxSaving);
    http = TestBed.inject(HttpTestingController);
    remarks = TestBed.inject(Remarks);
    store.open(TABLE, BOX, BOX);
    boxSaving.stored.set(storedBox(1));
  });
  afterEach(() => http.verify());

  it('what is saved elsewhere is said at once, and taken over, or saved over', () => {
    const told = { box: 7, version: 2, who: 'Ada', deleted: false };
    news.next({ ...told, box: 8 });
    expect(boxSaving.newer()).toBeUndefined();
    news.next(told);
    expect(boxSaving.newer()).toEqual(told);
    store.type(0, 'typed');
    boxSaving.takeOver();
    http.expectOne('/api/boxes/7').flush(storedBox(2, { ...BOX, effect: 'mark in place' }));
    expect([store.box().effect, store.strands()[0].text, store.unsaved()]).toEqual(['mark in place', 'typed', false]);
    expect(boxSaving.newer()).toBeUndefined();
    store.update({ need: 'any word' });
    news.next({ ...told, version: 3 });
    boxSaving.saveOver();
    http.expectOne({ method: 'GET', url: '/api/boxes/7' }).flush(storedBox(3, { ...BOX, need: 'every word' }));
    const sent = http.expectOne({ method: 'PUT', url: '/api/boxes/7' });
    expect(sent.request.headers.get('if-match')).toBe('"3"');
    sent.flush(storedBox(4, (sent.request.body as { box: Box }).box));
    expect([store.box().need, store.unsaved(), boxSaving.newer()]).toEqual(['any word', false, undefined]);
  });

  it('what is changed while Save is on its way is not saved by it, and says so', () => {
    store.update({ need: 'any word' });
    expect(boxSaving.save()).toBeTrue();
    const sent = http.expectOne('/api/boxes/7');
    expect(sent.request.headers.get('if-match')).toBe('"1"');
    store.update({ effect: 'mark in place' });
    store.type(0, 'typed meanwhile');
    sent.flush(storedBox(2, (sent.request.body as { box: Box }).box));
    expect(store.box().effect).toBe('mark in place');
    expect(store.strands()[0].text).toBe('typed meanwhile');
    expect(store.unsaved()).toBeTrue();
    expect(said()).toContain('What you changed meanwhile is not saved yet');
    boxSaving.save();
    const second = http.expectOne('/api/boxes/7');
    expect(second.request.headers.get('if-match')).toBe('"2"');
    second.flush(storedBox(3, (second.request.body as { box: Box }).box));
    expect(store.unsaved()).toBeFalse();
  });

  it('what is typed, and a flip, are not the box', () => {
    store.type(0, 'umbr');
    store.update({ flip: true });
    expect(store.unsaved()).toBeFalse();
    store.update({ need: 'any word' });
    boxSaving.save();
    const { box } = http.expectOne('/api/boxes/7').request.body as { box: Box };
    expect(box.flip).toBeUndefined();
    expect(box.strands?.[0].text ?? '').toBe('');
    expect(box.table).toBe('Things');
  });

  it('the database’s order of names makes no change of it', () => {
    store.update({
      strands: [
        { verb: 'find', text: '' },
        { verb: 'minus', text: 'torn' },
      ],
    });
    boxSaving.save();
    const sent = http.expectOne('/api/boxes/7');
    const { box } = sent.request.body as { box: Box };
    const turned = { ...box, strands: box.strands!.map(({ verb, text }) => ({ text, verb })) };
    sent.flush(storedBox(2, JSON.parse(JSON.stringify(turned)) as Box));
    expect(store.unsaved()).toBeFalse();
  });

  it('a second Save while one is on its way is not sent', () => {
    store.update({ need: 'any word' });
    boxSaving.save();
    boxSaving.save();
    http.expectOne('/api/boxes/7').flush(storedBox(2));
  });

  it('a clash loses nothing, says so, and can be saved over, or given up for theirs', () => {
    store.update({ need: 'any word' });
    boxSaving.save();
    http.expectOne('/api/boxes/7').flush({ title: 'x' }, { status: 412, statusText: 'Precondition Failed' });
    const theirs = { ...BOX, effect: 'mark in place' as const };
    http.expectOne('/api/boxes/7').flush(storedBox(5, theirs));
    expect(store.box().need).toBe('any word');
    expect(said()).toContain('Somebody changed this box in the meantime');
    boxSaving.save();
    const again = http.expectOne('/api/boxes/7');
    expect(again.request.headers.get('if-match')).toBe('"5"');
    again.flush({ title: 'x' }, { status: 412, statusText: 'Precondition Failed' });
    http.expectOne('/api/boxes/7').flush(storedBox(6, theirs));
    store.type(0, 'umbr');
    boxSaving.discard();
    expect([store.box().need, store.box().effect, store.strands()[0].text]).toEqual([
      undefined,
      'mark in place',
      'umbr',
    ]);
    expect(store.unsaved()).toBeFalse();
  });

  it('a box that somebody deleted can be kept as a new one', () => {
    store.update({ need: 'any word' });
    boxSaving.save();
    http.expectOne('/api/boxes/7').flush({ title: 'x' }, { status: 404, statusText: 'Not Found' });
    expect(said()).toContain('Somebody deleted this box');
    boxSaving.save();
    const sent = http.expectOne('/api/tables/1/boxes');
    sent.flush({ ...storedBox(1, (sent.request.body as { box: Box }).box), id: 8 });
    expect(boxSaving.stored()!.id).toBe(8);
    expect(TestBed.inject(Location).path()).toMatch(/^\/box\/8/);
  });

  it('a failed save says why, keeps all, and can be tried again', () => {
    store.update({ need: 'any word' });
    boxSaving.save();
    http.expectOne('/api/boxes/7').error(new ProgressEvent('error'));
    expect(said()).toMatch(/^Not saved\./);
    expect([store.box().need, boxSaving.busy(), store.unsaved()]).toEqual(['any word', false, true]);
  });

  it('keeping it as another one keeps what is typed', () => {
    store.type(0, 'umbr');
    boxSaving.saveAs('Second');
    store.type(0, 'umbrella');
    const sent = http.expectOne('/api/tables/1/boxes');
    const box = { ...(sent.request.body as { box: Box }).box };
    expect(box.name).toBe('Second');
    sent.flush({ ...storedBox(1, box), id: 9, name: 'Second' });
    expect([store.box().name, store.strands()[0].text, boxSaving.stored()!.id]).toEqual(['Second', 'umbrella', 9]);
  });

  it('a box without a name is not kept', () => {
    store.update({ name: '  ' });
    expect(boxSaving.save()).toBeFalse();
  });

  const files: [what: string, text: string, problem: RegExp | undefined][] = [
    ['no JSON', '{', /not JSON/],
    ['null', 'null', /not a box/],
    ['another file', '{"format":"else"}', /not a box/],
    ['a newer one', '{"format":"usual-needle box","version":2}', /newer/],
    ['a box', '{"format":"usual-needle box","version":1,"name":"In","need":"any word"}', undefined],
    [
      'a box with what cannot be read',
      '{"format":"usual-needle box","version":1,"name":"In","need":7,"pickers":[null],"sort":[{"column":"Gone","direction":"up"}]}',
      undefined,
    ],
  ];
  for (const [what, text, problem] of files) {
    it(`A8: a file that is ${what}`, () => {
      store.type(0, 'typed');
      const told = boxSaving.take(text);
      if (problem) {
        expect(told).toMatch(problem);
        expect(store.box().name).toBe('Desk');
      } else {
        expect(told).toBeUndefined();
        expect(store.box().name).toBe('In');
        store.undo();
        expect(store.box().name).toBe('Desk');
      }
      expect(store.strands()[0].text).toBe('typed');
    });
  }

  it('A8: a file says what of it could not be taken', () => {
    boxSaving.take('{"format":"usual-needle box","version":1,"need":7,"sort":[{"column":"Gone","direction":"up"}]}');
    expect(said()).toContain('this table has no Gone');
    expect(said()).toContain('“need”');
  });
});
