import { Component, output } from '@angular/core';

/** Stands for taking rows out in a take-away page, which has no server to do it. */
@Component({ selector: 'un-take-out-panel', template: '' })
export class TakeOutPanel {
  readonly closed = output<void>();
}
