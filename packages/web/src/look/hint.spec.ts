import { Component, signal } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { Hint } from './hint';

@Component({
  imports: [Hint],
  template: `
    <button id="one" unHint="Does one thing">One</button>
    @if (there()) {
      <button id="other" [unHint]="text()">Other</button>
    }
  `,
})
class Page {
  readonly there = signal(true);
  readonly text = signal('Does another');
}

describe('hints', () => {
  let page: ComponentFixture<Page>;
  const at = (id: string): HTMLElement => page.nativeElement.querySelector(`#${id}`) as HTMLElement;
  const told = (): (string | null)[] => [...document.querySelectorAll('.p-tooltip')].map((one) => one.textContent);
  const happens = (id: string, what: string): boolean => at(id).dispatchEvent(new Event(what));

  beforeEach(async () => {
    jasmine.clock().install();
    page = TestBed.createComponent(Page);
    document.body.append(page.nativeElement as HTMLElement);
    page.detectChanges();
    await page.whenStable();
  });
  afterEach(() => {
    page.destroy();
    jasmine.clock().uninstall();
    expect(told()).toEqual([]);
  });

  it('are told to a screen reader', () => {
    expect(at('one').getAttribute('aria-description')).toBe('Does one thing');
  });

  it('are told where one stays, and not where one passes', () => {
    happens('one', 'mouseenter');
    jasmine.clock().tick(400);
    happens('one', 'mouseleave');
    jasmine.clock().tick(1_000);
    expect(told()).toEqual([]);
    happens('other', 'mouseenter');
    jasmine.clock().tick(600);
    expect(told()).toEqual(['Does another']);
    happens('other', 'mouseleave');
    expect(told()).toEqual([]);
  });

  it('are of one control at a time, beneath it', () => {
    happens('one', 'mouseenter');
    jasmine.clock().tick(600);
    happens('other', 'mouseenter');
    expect(told()).toEqual([]);
    jasmine.clock().tick(600);
    expect(told()).toEqual(['Does another']);
    const bubble = document.querySelector('.p-tooltip')!.getBoundingClientRect();
    expect(bubble.top).toBeGreaterThanOrEqual(Math.floor(at('other').getBoundingClientRect().bottom));
    happens('one', 'mouseleave');
    expect(told()).withContext('another one is left').toEqual(['Does another']);
    happens('other', 'blur');
  });

  it('are told where a finger stays, until it is lifted', () => {
    happens('one', 'touchstart');
    jasmine.clock().tick(600);
    expect(told()).toEqual(['Does one thing']);
    happens('one', 'touchend');
    expect(told()).toEqual([]);
  });

  it('end with Escape, before they are told and after; who comes again is told again', () => {
    for (const stayed of [400, 600]) {
      happens('one', 'mouseenter');
      jasmine.clock().tick(stayed);
      document.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
      jasmine.clock().tick(1_000);
      expect(told()).withContext(`after ${stayed} ms`).toEqual([]);
    }
    happens('one', 'mouseenter');
    jasmine.clock().tick(600);
    expect(told()).toEqual(['Does one thing']);
    happens('one', 'mouseleave');
  });

  it('end with a press, a scroll, and their control', async () => {
    for (const ends of [() => happens('one', 'click'), () => document.body.dispatchEvent(new Event('scroll'))]) {
      happens('one', 'mouseenter');
      jasmine.clock().tick(600);
      expect(told()).toEqual(['Does one thing']);
      ends();
      expect(told()).toEqual([]);
    }
    happens('other', 'mouseenter');
    jasmine.clock().tick(600);
    page.componentInstance.there.set(false);
    page.detectChanges();
    expect(told()).toEqual([]);
  });
});
