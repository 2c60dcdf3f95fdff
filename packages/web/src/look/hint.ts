import { DestroyRef, Directive, ElementRef, inject, input } from '@angular/core';
import { HintBubble } from './hint-bubble';

/**
 * Tells what a control does, in a plain sentence: on hover, on focus, and to a screen reader. There are dozens on a page, which are
 * looked at with each key that is typed; so all of them share one tooltip.
 */
@Directive({
  selector: '[unHint]',
  host: { '[attr.aria-description]': 'unHint() || null' },
})
export class Hint {
  readonly unHint = input.required<string>();

  constructor() {
    const bubble = inject(HintBubble);
    const control = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    const begin = (): void => bubble.begin(control, this.unHint());
    const end = (): void => bubble.end(control);
    // Not by Angular: what goes on over a control is no reason to look whether the page has changed.
    control.addEventListener('mouseenter', begin);
    // A finger that stays on it is told, too.
    control.addEventListener('touchstart', begin, { passive: true });
    // By the keyboard only: a press has told already.
    control.addEventListener('focus', () => control.matches(':focus-visible') && begin());
    for (const left of ['mouseleave', 'touchend', 'touchcancel', 'blur', 'click']) control.addEventListener(left, end);
    inject(DestroyRef).onDestroy(end);
  }
}
