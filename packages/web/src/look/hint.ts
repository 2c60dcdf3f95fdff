import { Directive, inject, input } from '@angular/core';
import { Tooltip } from 'primeng/tooltip';

/** Milliseconds over a control, or on it by the keyboard, until it says what it does: who only passes is not told. */
const DELAY_MS = 500;

/** What a control does, in a plain sentence: on hover, on focus, and to a screen reader. */
@Directive({
  selector: '[unHint]',
  hostDirectives: [{ directive: Tooltip, inputs: ['pTooltip: unHint'] }],
  host: { '[attr.aria-description]': 'unHint() || null' },
})
export class Hint {
  readonly unHint = input.required<string>();

  constructor() {
    inject(Tooltip).setOption({ tooltipEvent: 'both', tooltipPosition: 'bottom', showDelay: DELAY_MS });
  }
}
