import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { SearchAnswer, TableSummary } from '@usual-needle/contract';
import { Band } from './band';
import { Everywhere, questionsOf, type BandAnswer } from './everywhere';

type Tellings = ReadonlyMap<string, BandAnswer>;

const TABLE = {
  id: 1,
  name: 'Things',
  description: '',
  rows: 1_234,
  changedAt: '2026-11-25T10:00:00Z',
  columns: [{ name: 'A', kind: 'text' }],
} as unknown as TableSummary;

function told(matched: number): Tellings {
  return new Map([['table 1', { text: 'red', answer: { matched, rows: [] } as unknown as SearchAnswer }]]);
}

describe('a band of the shelf', () => {
  const everywhere = { told: signal<Tellings>(new Map()), toldLater: signal<Tellings>(new Map()) };

  async function bandAt(top: string): Promise<() => Promise<string>> {
    TestBed.configureTestingModule({
      providers: [provideRouter([]), { provide: Everywhere, useValue: everywhere }],
    });
    const fixture = TestBed.createComponent(Band);
    fixture.componentRef.setInput('table', TABLE);
    fixture.componentRef.setInput(
      'asked',
      questionsOf({ tables: [TABLE], boxes: [], deleted: [], demo: null, shared: [] }),
    );
    const element = fixture.nativeElement as HTMLElement;
    element.style.marginTop = top;
    const says = async (): Promise<string> => {
      // Two frames: until the browser has told what is in view.
      for (let i = 0; i < 2; i++) await new Promise((frame) => requestAnimationFrame(frame));
      fixture.detectChanges();
      return element.querySelector('.band')!.textContent.replace(/\s+/g, ' ').trim();
    };
    await says();
    return says;
  }

  beforeEach(() => {
    everywhere.told.set(new Map());
    everywhere.toldLater.set(new Map());
  });

  it('says what it is told as soon as it is told it, where it is in view', async () => {
    const says = await bandAt('0');
    everywhere.told.set(told(12));
    expect(await says()).toContain('12 of 1,234 rows');
  });

  it('says it after those in view, where it is out of sight', async () => {
    const says = await bandAt('6000px');
    everywhere.told.set(told(12));
    expect(await says()).not.toContain(' of 1,234 rows');
    everywhere.toldLater.set(told(12));
    expect(await says()).toContain('12 of 1,234 rows');
  });

  it('says it as it comes into view', async () => {
    const says = await bandAt('6000px');
    everywhere.told.set(told(7));
    window.scrollTo(0, 6000);
    expect(await says()).toContain('7 of 1,234 rows');
    window.scrollTo(0, 0);
  });
});
