import { signal } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import type { Column } from '@usual-needle/contract';
import { PickerOffers } from '../narrowing/picker-offers';
import { ValueOrder } from './value-order';

const STATUS: Column = { name: 'Status', kind: 'choice' };
const there = (...values: string[]): unknown => ({
  state: 'there',
  offers: { values: values.map((value) => ({ value, rows: 1 })) },
});

describe('the order of a column’s values', () => {
  let fixture: ComponentFixture<ValueOrder>;
  const offered = signal<unknown>(there('Sold', 'Held', ''));
  const asked: string[] = [];
  const shown = (): string[] => {
    fixture.detectChanges();
    return [...(fixture.nativeElement as HTMLElement).querySelectorAll('li span')].map((one) => one.textContent);
  };
  const press = (name: string): void => {
    const element = fixture.nativeElement as HTMLElement;
    const named = (one: HTMLElement): boolean => (one.getAttribute('aria-label') ?? one.innerText) === name;
    [...element.querySelectorAll('button')].find(named)!.click();
  };
  const column = (more: Partial<Column>): void => fixture.componentRef.setInput('column', { ...STATUS, ...more });

  beforeEach(() => {
    asked.length = 0;
    offered.set(there('Sold', 'Held', ''));
    const offers = { offered, ask: ({ column: name }: { column: string }) => asked.push(name) };
    TestBed.overrideComponent(ValueOrder, { set: { providers: [{ provide: PickerOffers, useValue: offers }] } });
    fixture = TestBed.createComponent(ValueOrder);
    column({});
  });

  it('is the one that is kept, then A to Z; a blank is none of them', () => {
    expect(shown()).toEqual(['Held', 'Sold']);
    offered.set(there('Sold', 'Held', 'Police'));
    column({ order: ['Police', 'Gone'] });
    expect(shown()).toEqual(['Police', 'Held', 'Sold']);
    expect(asked).toEqual(['Status']);
  });

  it('stays as it is being made while others change the column, and takes in what comes', () => {
    shown();
    press('Later: Held');
    expect(shown()).toEqual(['Sold', 'Held']);
    column({ order: ['Held', 'Sold'], formerly: ['State'] });
    expect(shown()).toEqual(['Sold', 'Held']);
    offered.set(there('Held', 'Sold', 'Police'));
    expect(shown()).toEqual(['Sold', 'Held', 'Police']);
    expect(asked).toEqual(['Status']);
  });

  it('is another column’s once that is shown, and follows what is kept once it is', () => {
    shown();
    press('Later: Held');
    let kept: readonly string[] | null | undefined;
    fixture.componentInstance.kept.subscribe((order) => (kept = order));
    press('Keep this order');
    expect(kept).toEqual(['Sold', 'Held']);
    column({ order: ['Sold', 'Held'] });
    expect(shown()).toEqual(['Sold', 'Held']);
    column({ order: ['Held', 'Sold'] });
    expect(shown()).toEqual(['Held', 'Sold']);
    press('Later: Held');
    column({ name: 'Colour' });
    shown();
    expect(asked).toEqual(['Status', 'Colour']);
  });
});
