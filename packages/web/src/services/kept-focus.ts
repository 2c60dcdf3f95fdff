import { DestroyRef, inject, Injectable } from '@angular/core';

/** Elements that had the focus before, of which the last that is still there gets it back. */
const REMEMBERED = 12;
/** The time, in milliseconds, in which what has just been drawn may ask for the focus itself. */
const WAIT_MS = 40;

/**
 * Brings the focus back where the element that had it is removed or disabled: to what had it before, or else to what a screen marks
 * with `data-focus-home`. Browsers let it fall to the body, from where the next Tab starts at the top of the page.
 */
@Injectable({ providedIn: 'root' })
export class KeptFocus {
  private readonly held: HTMLElement[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    const focused = ({ target }: Event): void => this.remember(target);
    // Who presses on what takes no focus has taken it away.
    const pressed = ({ target }: Event): void => {
      if (target instanceof Element && !target.closest('a, button, input, textarea, select, label, [tabindex]'))
        this.held.length = 0;
    };
    const changes = new MutationObserver(() => this.look());
    document.addEventListener('focusin', focused);
    document.addEventListener('pointerdown', pressed);
    changes.observe(document.body, { subtree: true, childList: true, attributes: true, attributeFilter: ['disabled'] });
    inject(DestroyRef).onDestroy(() => {
      document.removeEventListener('focusin', focused);
      document.removeEventListener('pointerdown', pressed);
      changes.disconnect();
      clearTimeout(this.timer);
    });
  }

  private remember(target: EventTarget | null): void {
    if (!(target instanceof HTMLElement)) return;
    const before = this.held.indexOf(target);
    if (before >= 0) this.held.splice(before, 1);
    this.held.push(target);
    if (this.held.length > REMEMBERED) this.held.shift();
  }

  private look(): void {
    if (this.timer === undefined && this.isLost()) this.timer = setTimeout(() => this.bringBack(), WAIT_MS);
  }

  private isLost(): boolean {
    // Whether it can be seen would have the page laid out: that is asked only where nothing has the focus.
    if (isElsewhere(document.activeElement)) return false;
    const last = this.held.at(-1);
    return last !== undefined && !canHaveIt(last);
  }

  private bringBack(): void {
    this.timer = undefined;
    if (!this.isLost()) return;
    const before = [...this.held].reverse().find(canHaveIt) ?? document.querySelector<HTMLElement>('[data-focus-home]');
    before?.focus({ preventScroll: true });
  }
}

function canHaveIt(element: HTMLElement): boolean {
  return element.isConnected && !element.matches(':disabled') && element.checkVisibility({ visibilityProperty: true });
}

function isElsewhere(element: Element | null): boolean {
  return element !== null && element !== document.body && !element.matches(':disabled');
}
