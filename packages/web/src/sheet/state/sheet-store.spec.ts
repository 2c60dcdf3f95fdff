import { TestBed } from '@angular/core/testing';
import { SheetStore } from './sheet-store';

describe('the state of a sheet', () => {
  let store: SheetStore;
  const text = (): string => store.strands()[0].text;
  beforeEach(() => {
    TestBed.configureTestingModule({ providers: [SheetStore] });
    store = TestBed.inject(SheetStore);
    const columns = ['A', 'B', 'C'].map((name) => ({ name, kind: 'text' as const }));
    store.open(
      { id: 1, name: 'T', description: '', columns, rows: 0, version: 1, change: 1, changedAt: '' },
      store.box(),
      store.box(),
    );
  });

  it('undoes and redoes changes of the box, and keeps what was typed since', () => {
    store.type(0, 'umbr');
    store.update({ need: 'any word' });
    store.type(0, 'umbr wood');
    store.undo();
    expect([store.box().need, text()]).toEqual([undefined, 'umbr wood']);
    store.redo();
    expect([store.box().need, text()]).toEqual(['any word', 'umbr wood']);
  });

  it('undoes a remedy of the text too', () => {
    store.type(0, 'umbrela');
    store.update({ strands: [{ verb: 'find', text: 'umbrella' }] });
    store.undo();
    expect(text()).toBe('umbrela');
    store.redo();
    expect(text()).toBe('umbrella');
  });

  it('tells every change in the task in which it is made', () => {
    const told: string[] = [];
    store.changes.subscribe((change) => told.push(change));
    store.type(0, 'a');
    store.update({ flip: true });
    store.undo();
    expect(told).toEqual(['typed', 'chosen', 'chosen']);
  });

  it('leaves the definition as it is while typing goes on', () => {
    const before = store.definition();
    store.type(0, 'a');
    expect(store.definition()).toBe(before);
    store.update({ effect: 'mark in place' });
    expect(store.definition()).not.toBe(before);
  });

  it('shows, hides, moves and widens columns, and never hides the last', () => {
    const shown = (): string[] => store.layout().map(({ name }) => name);
    store.toggleShown('B');
    expect(shown()).toEqual(['A', 'C']);
    store.moveColumn('C', -1);
    store.moveColumn('C', -1);
    expect(shown()).toEqual(['C', 'A']);
    store.toggleShown('B');
    expect(shown()).toEqual(['C', 'A', 'B']);
    store.setWidth('A', 9_999);
    expect(store.layout()[1].width).toBe(2_000);
    for (const name of ['A', 'B', 'C']) store.toggleShown(name);
    expect(shown()).toEqual(['C']);
  });

  it('sorts by a column up, down and not at all, and by more of them', () => {
    const sort = (): string =>
      store
        .sort()
        .map(({ column, direction }) => column + direction)
        .join();
    store.sortBy('A', false);
    expect(sort()).toBe('Aup');
    store.sortBy('B', true);
    store.sortBy('A', true);
    expect(sort()).toBe('Adown,Bup');
    store.sortBy('A', true);
    expect(sort()).toBe('Bup');
    store.sortBy('C', false);
    store.sortBy('C', false);
    store.sortBy('C', false);
    expect(sort()).toBe('');
  });

  it('keeps the first strand first', () => {
    store.addStrand();
    store.addStrand();
    store.type(1, 'one');
    store.type(2, 'two');
    store.moveStrand(2, -1);
    store.moveStrand(1, -1);
    expect(store.strands().map(({ text: typed }) => typed)).toEqual(['', 'two', 'one']);
    store.type(0, 'x');
    expect(store.unsaved()).toBe(true);
  });
});
