import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  type ElementRef,
  inject,
  input,
  output,
  viewChild,
} from '@angular/core';
import { Popover } from 'primeng/popover';

const FOCUSABLE =
  'button:not(:disabled), input:not(:disabled), textarea:not(:disabled), a[href], [tabindex]:not([tabindex="-1"])';
/** The elements that arrows go through. */
const ITEMS = '[role="radio"], [role="menuitem"], [role="option"], .item, .p-checkbox-input';
const KEYS: Readonly<Record<string, (at: number, count: number) => number>> = {
  ArrowDown: (at, count) => (at + 1) % count,
  ArrowUp: (at, count) => (at + count - 1) % count,
  Home: () => 0,
  End: (_, count) => count - 1,
};

/** Finds the elements that are drawn: some have no room in a narrow window, or in a wide one no need. */
function seen(within: HTMLElement, which: string): HTMLElement[] {
  return [...within.querySelectorAll<HTMLElement>(which)].filter((one) => one.offsetParent !== null);
}

/**
 * A popover at its opener. The focus goes in when it opens, and back to the opener when it closes, whatever closed it; Esc
 * closes it and nothing else; the arrows go through its choices; another opener opens it there at once. One is open at a time. It
 * keeps to the window, whatever comes into it while it is open.
 */
@Component({
  selector: 'un-pop',
  imports: [Popover],
  template: `
    <p-popover
      #popover
      [ariaLabel]="label()"
      [focusOnShow]="false"
      [motionOptions]="still"
      (onShow)="shown()"
      (onHide)="focusBack()"
    >
      <div #inner (keydown)="key($event)"><ng-content /></div>
    </p-popover>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Pop {
  readonly label = input.required<string>();
  /** Takes the focus when the opener is gone by the time of closing. */
  readonly otherwise = input('#find');
  readonly closed = output<void>();

  private readonly popover = viewChild.required<Popover>('popover');
  private readonly content = viewChild.required<ElementRef<HTMLElement>>('inner');
  protected readonly still = { disabled: true };
  private opener: HTMLElement | undefined;
  /** The one that is open. */
  private static open: Pop | undefined;

  /** Watches the size of what is in it, in a frame of its own: what is moved may have another size then, too. */
  private readonly sizes = new ResizeObserver(() => requestAnimationFrame(() => this.keepIn()));

  constructor() {
    inject(DestroyRef).onDestroy(() => this.closes());
  }

  /** Opens at what was clicked; closes if it was open there. @returns whether it is open then */
  toggle(event: Event): boolean {
    const opener = (event.currentTarget ?? event.target) as HTMLElement;
    const { overlayVisible } = this.popover();
    if (!overlayVisible) this.show(opener);
    else if (this.opener === opener) {
      this.hide();
      return false;
    } else {
      this.opener = opener;
      this.popover().target = opener;
      this.popover().align();
      this.focusIn();
    }
    return true;
  }

  /** Opens at an element, if it is not open yet. */
  show(opener: HTMLElement): void {
    this.opener = opener;
    if (this.popover().overlayVisible) return;
    this.opens();
    // Without the click, which others are to hear, too: lists close by it.
    this.popover().show(null, opener);
  }

  hide(): void {
    this.popover().hide();
  }

  /** Not every opening is a click, by which another one would close. */
  private opens(): void {
    Pop.open?.hide();
    Pop.open = this;
  }

  protected shown(): void {
    const content = this.content().nativeElement;
    this.sizes.observe(content);
    // Whoever was quicker than the drawing is left where they are.
    requestAnimationFrame(() => {
      if (!content.contains(document.activeElement)) this.focusAtOnce();
    });
  }

  private closes(): void {
    this.sizes.disconnect();
    if (Pop.open === this) Pop.open = undefined;
  }

  /** Keeps the popover in the window: what is in it has another size now. Where it still lies within the window it stays where it is. */
  private keepIn(): void {
    const { container, overlayVisible } = this.popover();
    if (!container || !overlayVisible) return;
    const { left, right, bottom } = container.getBoundingClientRect();
    const { clientWidth, clientHeight } = document.documentElement;
    if (left < 0 || right > clientWidth || bottom > clientHeight) this.popover().align();
  }

  /** Moves the focus into what is shown, once that has been drawn. */
  focusIn(): void {
    requestAnimationFrame(() => this.focusAtOnce());
  }

  private focusAtOnce(): void {
    const content = this.content().nativeElement;
    const chosen = content.querySelector<HTMLElement>('[autofocus], [aria-checked="true"]');
    (chosen ?? seen(content, FOCUSABLE)[0])?.focus();
  }

  protected focusBack(): void {
    this.closes();
    this.closed.emit();
    const at = document.activeElement;
    // Who clicked elsewhere, or opened another one, is there by now; who chose something is still in what is closing.
    if (Pop.open || (at && at !== document.body && at.isConnected && !at.closest('.p-popover'))) return;
    const { opener } = this;
    const back = opener?.isConnected ? opener : document.querySelector<HTMLElement>(this.otherwise());
    back?.focus();
  }

  protected key(event: KeyboardEvent): void {
    if (event.isComposing || event.defaultPrevented) return;
    const target = event.target as HTMLElement;
    const content = this.content().nativeElement;
    if (event.key === 'Escape') {
      event.preventDefault();
      event.stopPropagation();
      // The focus is let go of first, so that it goes back.
      target.blur();
      this.hide();
      return;
    }
    const to = KEYS[event.key];
    if (to && target.matches(ITEMS)) {
      const items = seen(content, ITEMS).filter((item) => !item.matches(':disabled'));
      items[to(items.indexOf(target), items.length)]?.focus();
      event.preventDefault();
      return;
    }
    if (event.key !== 'Tab') return;
    const all = seen(content, FOCUSABLE);
    if (target !== (event.shiftKey ? all[0] : all.at(-1))) return;
    event.preventDefault();
    target.blur();
    this.hide();
  }
}
