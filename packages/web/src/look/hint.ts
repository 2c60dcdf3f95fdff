import { Directive, ElementRef, inject, input } from '@angular/core';
import { Tooltip } from 'primeng/tooltip';

/** Milliseconds over a control, or on it by the keyboard, until it says what it does: who only passes is not told. */
const DELAY_MS = 500;

/** Tells what a control does, in a plain sentence: on hover, on focus, and to a screen reader. */
@Directive({
  selector: '[unHint]',
  hostDirectives: [{ directive: Tooltip, inputs: ['pTooltip: unHint'] }],
  host: {
    '[attr.aria-description]': 'unHint() || null',
    '(focus)': 'focused()',
    '(blur)': 'tooltip.deactivate()',
  },
})
export class Hint {
  readonly unHint = input.required<string>();

  protected readonly tooltip = inject(Tooltip);
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;

  constructor() {
    this.tooltip.setOption({ tooltipPosition: 'bottom', showDelay: DELAY_MS });
  }

  /** Tells by the keyboard only: a press has told already, and a tooltip that is begun twice is ended but once. */
  protected focused(): void {
    if (!this.tooltip.active && this.element.matches(':focus-visible')) this.tooltip.activate();
  }
}
