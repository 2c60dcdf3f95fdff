import { afterNextRender, type ElementRef } from '@angular/core';

/** Gives a panel the focus as it is opened, unless somebody has begun to type elsewhere meanwhile. */
export function takeFocus({ nativeElement: panel }: ElementRef<HTMLElement>): void {
  afterNextRender(() => {
    if (!document.activeElement?.matches('input, textarea')) panel.focus({ preventScroll: true });
  });
}
