import { TestBed } from '@angular/core/testing';
import type { Refresh } from '@usual-needle/contract';
import { RefreshRows } from './refresh-rows';

const PLAN: Refresh = {
  added: 1,
  changed: 2,
  gone: 0,
  unchanged: 7,
  columns: [
    { name: 'No', kind: 'text' },
    { name: 'Thing', kind: 'text' },
    { name: 'Status', kind: 'choice' },
  ],
  missing: ['Thing'],
  matched: [],
  fresh: [],
  mended: 0,
  removed: 0,
  clashing: 1,
  clashes: [{ row: 7, key: '7', column: 'Thing', said: 'hat', theirs: 'cap', ours: 'hats', taken: 'ours' }],
  unclear: { file: 1, table: 0, rows: [{ where: 'file', why: 'blank', at: 4, key: '', cells: ['', 'key', ''] }] },
  rows: [
    { what: 'changed', before: ['1', 'hat', 'Held'], after: ['1', 'hat', 'Returned'] },
    { what: 'changed', before: ['2', 'key', ''], after: ['2', 'key', 'Held'] },
    { what: 'added', before: null, after: ['3', 'two\nlines', 'Held'] },
  ],
  change: 4,
};

describe('what a refresh would do, row by row', () => {
  const shown = () => {
    const fixture = TestBed.createComponent(RefreshRows);
    fixture.componentRef.setInput('plan', PLAN);
    fixture.detectChanges();
    const element = fixture.nativeElement as HTMLElement;
    const texts = (selector: string): string[] =>
      [...element.querySelectorAll<HTMLElement>(selector)].map(({ innerText }) => innerText.trim());
    const choose = (name: string): void => {
      [...element.querySelectorAll('button')].find(({ innerText }) => innerText.includes(name))!.click();
      fixture.detectChanges();
    };
    return { texts, choose };
  };

  it('begins with a sort that there is, and says what is not in the file', () => {
    const { texts } = shown();
    expect(texts('[aria-checked="true"]')).toEqual(['1 added']);
    expect(texts('.which span')).toEqual(['Not in the file, and left as they are: Thing']);
    expect(texts('td')).toEqual(['3', 'two ⏎ lines', 'Held']);
  });

  it('puts what differs beside what the row is called by, as it was and as it will be', () => {
    const { texts, choose } = shown();
    choose('changed');
    expect(texts('th')).toEqual(['No', 'Status', 'Thing']);
    expect(texts('del')).toEqual(['Held']);
    expect(texts('.differs span')).toEqual(['Returned', 'Held']);
    choose('gone');
    expect(texts('td')).toEqual(['No row is gone.']);
    choose('clashing');
    expect(texts('td')).toEqual(['7', 'Thing', 'hat', 'hats', 'cap']);
    expect(texts('[aria-pressed="true"]')).toEqual(['hats']);
    choose('unclear');
    expect(texts('td')).toEqual(['line 4 of the file', 'its key is blank', '', 'key', '']);
  });
});
