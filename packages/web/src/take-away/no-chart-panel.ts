import { Component, output } from '@angular/core';

/** Stands for the chart in a take-away page, which has none: its package would be a tenth of the page. */
@Component({ selector: 'un-chart-panel', template: '' })
export class ChartPanel {
  readonly closed = output<void>();
}
