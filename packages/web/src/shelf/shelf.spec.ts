import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, type TestRequest, provideHttpClientTesting } from '@angular/common/http/testing';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { ShelfContent } from '@usual-needle/contract';
import { Shelf } from './shelf';

const EMPTY: ShelfContent = { tables: [], boxes: [], deleted: [], demo: null, shared: [] };
const FULL = {
  tables: [
    {
      id: 1,
      name: 'Things',
      description: 'What was found.',
      rows: 1_234,
      version: 1,
      change: 1,
      changedAt: '2026-11-25T10:00:00Z',
      columns: [{ name: 'A', kind: 'text' }],
    },
  ],
  boxes: [
    {
      id: 4,
      tableId: 1,
      name: 'Desk',
      box: { format: 'usual-needle box', version: 1, threaded: ['A'], everyColumn: true },
      prompt: null,
      whole: true,
      columnsShown: 1,
    },
  ],
  deleted: [{ what: 'box', id: 9, name: 'Gone', table: 'Things', deletedAt: '2026-11-24T10:00:00Z' }],
} as unknown as ShelfContent;

describe('C5: the shelf', () => {
  let fixture: ComponentFixture<Shelf>;
  let http: HttpTestingController;
  const text = (): string => {
    fixture.detectChanges();
    return (fixture.nativeElement as HTMLElement).innerText.replace(/\s+/g, ' ');
  };
  const button = (name: string): HTMLElement =>
    [...document.querySelectorAll('button')].find(
      (one) => (one.getAttribute('aria-label') ?? one.innerText.trim()) === name,
    )!;
  const health = (status: 'starting' | 'ready'): void =>
    http.expectOne('/api/health').flush({ status, tables: 0, tablesRead: 0, rows: 0, rowsRead: 0 });
  const shelf = (content: ShelfContent): void => {
    http.expectOne('/api/tables').flush(content);
    // Whoever builds a table is told of its source, too.
    if (content.tables.length > 0)
      http.expectOne('/api/sources').flush({ sources: [], connections: [], inTray: false });
  };

  beforeEach(() => {
    jasmine.clock().install();
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([])] });
    fixture = TestBed.createComponent(Shelf);
    http = TestBed.inject(HttpTestingController);
  });
  afterEach(() => {
    fixture.destroy();
    http.verify();
    jasmine.clock().uninstall();
  });

  it('lists tables with their boxes, each as its sentence in short, and whole when asked for', () => {
    health('ready');
    shelf(FULL);
    expect(text()).toContain('Things 1,234 rows');
    expect(text()).toContain('What was found.');
    expect(text()).toContain('Looks in every column. Shows only matching rows.');
    expect(text()).toContain('1 deleted box can be brought back');
    button('The whole sentence of Desk').click();
    expect(text()).toContain('Looks in every column for every word, anywhere in the cell');
  });

  it('invites to drop a file only where there is no table', () => {
    health('ready');
    expect(text()).not.toContain('Drop a file here');
    shelf(EMPTY);
    expect(text()).toContain('Drop a file here');
    jasmine.clock().tick(10_000);
  });

  it('asks every box, and a new box of each table, for what is typed; and says what each of them says', () => {
    health('ready');
    shelf(FULL);
    fixture.detectChanges();
    const field = (fixture.nativeElement as HTMLElement).querySelector<HTMLInputElement>('#everywhere')!;
    field.value = 'red';
    field.dispatchEvent(new Event('input'));
    fixture.detectChanges();
    const asked = http.match('/api/tables/1/search');
    expect(asked.length).toBe(2);
    const questions = asked.map(
      ({ request }) => request.body as { question: { strands: { text: string }[] }; limit: number },
    );
    expect(questions.map(({ question, limit }) => [question.strands[0].text, limit])).toEqual([
      ['red', 3],
      ['red', 0],
    ]);
    const row = { id: 1, place: 1, position: 0, match: true, cells: ['a red key'], marks: [[0, 2, 5, 1]] };
    asked[0].flush({ matched: 7, rows: [row], complete: true, milliseconds: 1, problem: null });
    asked[1].flush({ matched: 12, rows: [], complete: true, milliseconds: 1, problem: null });
    jasmine.clock().tick(20);
    expect(text()).toContain('12 rows in 1 table · every row searched');
    expect(text()).toContain('Things 12 of 1,234 rows');
    expect(text()).toMatch(/7 rows/);
    expect(text()).toContain('a red key');
    // An answer to an older text is not shown.
    field.value = 'redd';
    field.dispatchEvent(new Event('input'));
    fixture.detectChanges();
    const late = http.match('/api/tables/1/search');
    field.value = '';
    field.dispatchEvent(new Event('input'));
    fixture.detectChanges();
    expect(late.every(({ cancelled }) => cancelled)).toBeTrue();
    expect(text()).not.toContain('every row searched');
    jasmine.clock().tick(10_000);
  });

  it('goes on saying what its bands show until the answers are there, or are late', () => {
    health('ready');
    shelf(FULL);
    fixture.detectChanges();
    const summary = (): string => {
      fixture.detectChanges();
      return (fixture.nativeElement as HTMLElement).querySelector('.summary')!.textContent.trim();
    };
    const type = (typed: string): TestRequest[] => {
      const field = (fixture.nativeElement as HTMLElement).querySelector<HTMLInputElement>('#everywhere')!;
      field.value = typed;
      field.dispatchEvent(new Event('input'));
      fixture.detectChanges();
      return http.match('/api/tables/1/search');
    };
    const answer = (asked: TestRequest[], matched: number): void => {
      for (const one of asked) one.flush({ matched, rows: [], complete: true, milliseconds: 1, problem: null });
    };
    const first = type('r');
    expect(summary()).toBe('');
    jasmine.clock().tick(200);
    expect(summary()).toBe('still searching');
    answer(first, 12);
    expect(summary()).toBe('12 rows in 1 table · every row searched');
    const second = type('re');
    jasmine.clock().tick(100);
    expect(summary()).toBe('12 rows in 1 table · every row searched');
    jasmine.clock().tick(100);
    expect(summary()).toBe('12 rows in 1 table · still searching');
    answer(second, 0);
    expect(summary()).toBe('nothing found · every row searched');
    // Late only if it takes long from the first key that was not answered, and not from an earlier one.
    answer(type('red'), 3);
    jasmine.clock().tick(200);
    type('red ');
    jasmine.clock().tick(100);
    expect(summary()).toBe('3 rows in 1 table · every row searched');
    // What is drawn of it by then is not said to be of the text before.
    const [one] = type('red s');
    one.flush({ matched: 1, rows: [], complete: true, milliseconds: 1, problem: null });
    jasmine.clock().tick(80);
    expect(summary()).toContain('still searching');
    type('');
    expect(summary()).toBe('');
    jasmine.clock().tick(10_000);
    expect(summary()).toBe('');
  });

  it('B5: asks nothing while an input method composes, and what was composed when it ends', () => {
    health('ready');
    shelf(FULL);
    fixture.detectChanges();
    const field = (fixture.nativeElement as HTMLElement).querySelector<HTMLInputElement>('#everywhere')!;
    field.value = 'u';
    field.dispatchEvent(new InputEvent('input', { isComposing: true }));
    fixture.detectChanges();
    expect(http.match('/api/tables/1/search').length).toBe(0);
    field.dispatchEvent(new CompositionEvent('compositionend'));
    fixture.detectChanges();
    expect(http.match('/api/tables/1/search').length).toBe(2);
    jasmine.clock().tick(10_000);
  });

  it('says so where a table cannot be asked, and counts the others', () => {
    health('ready');
    shelf(FULL);
    fixture.componentRef.setInput('q', 'red');
    fixture.detectChanges();
    const [box, table] = http.match('/api/tables/1/search');
    box.flush({ title: 'Too many questions' }, { status: 503, statusText: 'Busy' });
    table.flush({ matched: 12, rows: [], complete: true, milliseconds: 1, problem: null });
    jasmine.clock().tick(20);
    expect(text()).toContain('12 rows in 1 table · 1 could not be asked');
    expect(text()).toContain('not answered');
  });

  it('fills by itself while the server is starting, and says so until then', () => {
    health('starting');
    shelf(EMPTY);
    expect(text()).toContain('The server has just been started');
    expect(text()).not.toContain('Drop a file here');
    jasmine.clock().tick(1_000);
    health('starting');
    shelf(FULL);
    expect(text()).toContain('Things');
    // Not all of them may be there yet.
    jasmine.clock().tick(1_000);
    health('ready');
    shelf(FULL);
    expect(text()).not.toContain('just been started');
    jasmine.clock().tick(10_000);
  });

  it('asks no more once it has been left', () => {
    health('starting');
    shelf(EMPTY);
    fixture.destroy();
    jasmine.clock().tick(10_000);
    http.expectNone('/api/health');
  });

  it('says why it cannot be fetched, and tries again when asked to', () => {
    http.expectOne('/api/health').flush({ title: 'Broken' }, { status: 400, statusText: 'Bad Request' });
    const again = (): HTMLElement =>
      (fixture.nativeElement as HTMLElement).querySelector<HTMLElement>('[role="alert"] button')!;
    fixture.detectChanges();
    again().click();
    health('ready');
    shelf(FULL);
    expect(text()).toContain('Things');
    expect(again()).toBeNull();
  });

  it('deletes a table, says for how long it is kept, and brings it back', () => {
    health('ready');
    shelf(FULL);
    fixture.detectChanges();
    button('More of Things').click();
    fixture.detectChanges();
    button('Delete …').click();
    fixture.detectChanges();
    http
      .expectOne({ method: 'GET', url: '/api/tables/1/dependents' })
      .flush({ boxes: [{ id: 7, name: 'Desk', opened: 3 }], borrowers: [] });
    fixture.detectChanges();
    expect(document.body.innerText).toContain('The box “Desk” uses it: opened 3 times.');
    button('Delete Things').click();
    http.expectOne({ method: 'DELETE', url: '/api/tables/1' }).flush(null);
    health('ready');
    shelf({
      ...EMPTY,
      deleted: [{ what: 'table', id: 1, name: 'Things', table: null, deletedAt: '2026-11-25T10:00:00Z' }],
    });
    expect(text()).toContain('1 deleted table can be brought back');
    button('1 deleted table').click();
    fixture.detectChanges();
    expect(document.body.innerText).toContain('30 days');
    button('Bring back Things').click();
    http.expectOne({ method: 'POST', url: '/api/tables/1/restore' }).flush(FULL.tables[0]);
    health('ready');
    shelf(FULL);
    expect(text()).toContain('Things 1,234 rows');
  });
});
