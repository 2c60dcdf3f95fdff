import { ChangeDetectionStrategy, Component } from '@angular/core';

/** A needle with its thread. */
@Component({
  selector: 'un-logo',
  template: `
    <svg viewBox="0 0 32 20" width="32" height="20" aria-hidden="true">
      <path class="needle" d="M1 18 C10 16 19 10 25 4 C28 1 32 2 29 6 C24 12 12 17 1 18 Z" />
      <path class="line" d="M2 15 C9 8 14 16 27 5" />
    </svg>
  `,
  styles: `
    :host {
      display: inline-flex;
    }
    .needle {
      fill: none;
      stroke: var(--ink);
      stroke-width: 1.8;
    }
    .line {
      fill: none;
      stroke: var(--thread);
      stroke-width: 1.8;
      stroke-linecap: round;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Logo {}
