import { TestBed } from '@angular/core/testing';
import type { Column } from '@usual-needle/contract';
import { Api } from '../../services/api';
import { SheetStore } from '../state/sheet-store';
import { CellEditor, type Written } from './cell-editor';

describe('A2: the field of a cell', () => {
  function opened(text: string): { field: HTMLTextAreaElement; becomes: (text: string) => void; written: Written[] } {
    TestBed.configureTestingModule({
      providers: [
        { provide: Api, useValue: {} },
        { provide: SheetStore, useValue: { table: () => undefined } },
      ],
    });
    const fixture = TestBed.createComponent(CellEditor);
    const set = (name: string, value: unknown): void => fixture.componentRef.setInput(name, value);
    const written: Written[] = [];
    fixture.componentInstance.written.subscribe((one) => written.push(one));
    set('column', { name: 'Note', kind: 'text' } as Column);
    set('text', text);
    set('label', 'Note');
    set('rescue', () => undefined);
    fixture.detectChanges();
    const becomes = (now: string): void => {
      set('text', now);
      fixture.detectChanges();
    };
    return { field: (fixture.nativeElement as HTMLElement).querySelector('textarea')!, becomes, written };
  }

  const type = (field: HTMLTextAreaElement, text: string): void => {
    field.value = text;
    field.dispatchEvent(new Event('input'));
  };
  const enter = (field: HTMLTextAreaElement): boolean =>
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', cancelable: true }));

  it('keeps what is typed, whatever the cell becomes meanwhile, and says what it was when that was begun', () => {
    const { field, becomes, written } = opened('black');
    type(field, 'by');
    becomes('navy');
    expect(field.value).toBe('by');
    type(field, 'by thumb');
    enter(field);
    expect(written).toEqual([{ text: 'by thumb', was: 'black', onward: 'down' }]);
  });

  it('shows what the cell becomes as long as nothing is typed', () => {
    const { field, becomes, written } = opened('');
    becomes('first again');
    expect(field.value).toBe('first again');
    type(field, 'by');
    enter(field);
    expect(written).toEqual([{ text: 'by', was: 'first again', onward: 'down' }]);
  });
});
