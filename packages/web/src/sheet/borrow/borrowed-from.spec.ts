import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideZonelessChangeDetection } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import type { Borrows } from '@usual-needle/contract';
import { BorrowedFrom } from './borrowed-from';
import { LenderTables } from './lender-tables';

const BORROWS: Borrows = { table: 2, key: 'Found at', matches: 'Item no.', column: 'Town', several: 'first' };
const TABLE = { id: 2, name: 'Stops' };

describe('where a borrowed column comes from', () => {
  let http: HttpTestingController;
  let fixture: ComponentFixture<BorrowedFrom>;
  beforeEach(() => {
    TestBed.configureTestingModule({
      providers: [provideZonelessChangeDetection(), provideHttpClient(), provideHttpClientTesting(), LenderTables],
    });
    http = TestBed.inject(HttpTestingController);
  });
  afterEach(() => http.verify());

  async function shown(borrows: Borrows, key?: string): Promise<HTMLElement> {
    fixture = TestBed.createComponent(BorrowedFrom);
    fixture.componentRef.setInput('borrows', borrows);
    fixture.componentRef.setInput('key', key);
    await fixture.whenStable();
    return fixture.nativeElement as HTMLElement;
  }
  const told = async (): Promise<void> => {
    http.expectOne('/api/tables/2').flush(TABLE);
    await fixture.whenStable();
  };

  it('is said of the column, with one full stop, and the way to the table', async () => {
    const element = await shown(BORROWS);
    expect(element.textContent.trim()).toBe('');
    await told();
    expect(element.querySelector('span')?.textContent).toBe('Borrows Town from Stops, where Found at is its Item no.');
    expect(element.querySelector('a')?.getAttribute('href')).toBe('/table/2');
  });

  it('says so where all that fit are borrowed', async () => {
    const element = await shown({ ...BORROWS, matches: 'Name', several: 'all' });
    await told();
    expect(element.querySelector('span')?.textContent).toBe(
      'Borrows Town from Stops, where Found at is its Name, all that fit.',
    );
  });

  it('leads from a record to the rows that lend; from one that finds none it only says where from', async () => {
    const element = await shown(BORROWS, 'Quay');
    await told();
    expect(element.querySelector('a')?.getAttribute('href')).toContain('/table/2?q=Quay');
    // The table is known by now.
    const none = await shown(BORROWS, '');
    expect(none.querySelector('a')).toBeNull();
    expect(none.textContent).toContain('borrowed from Stops');
  });

  it('says that the table is gone, and asks again the next time', async () => {
    const element = await shown(BORROWS, 'Quay');
    http.expectOne('/api/tables/2').flush({ title: 'gone' }, { status: 404, statusText: 'Not Found' });
    await fixture.whenStable();
    expect(element.textContent).toContain('not there any more');
    const again = await shown(BORROWS, 'Quay');
    await told();
    expect(again.textContent).toContain('in Stops');
  });
});
