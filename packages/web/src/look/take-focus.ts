import { afterNextRender, type ElementRef } from '@angular/core';

/** Tells whether keys go into a field: then nothing but the person moves the focus. */
export function isWriting(): boolean {
  return document.activeElement?.matches('input, textarea') ?? false;
}

/** Gives a panel the focus as it is opened, unless somebody has begun to type elsewhere meanwhile. */
export function takeFocus({ nativeElement: panel }: ElementRef<HTMLElement>): void {
  afterNextRender(() => {
    if (!isWriting()) panel.focus({ preventScroll: true });
  });
}
