import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { Offers } from '@usual-needle/contract';
import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js';
import { catchError, debounceTime, forkJoin, map, of, startWith, switchMap } from 'rxjs';
import { questionOf } from '../../common/question';
import { Choose } from '../../look/choose';
import { Api } from '../../services/api';
import { takeFocus } from '../../look/take-focus';
import { counted } from '../../services/numbers';
import { blankPicker, pickerWords } from '../state/box-change';
import { barsOf, type Bar } from './chart-bars';
import { Answers } from '../state/answers';
import { SheetStore } from '../state/sheet-store';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);

interface Fallen {
  readonly column: string;
  readonly bars: readonly Bar[];
  readonly failed: boolean;
}

/** Where the matches fall: matches and the rest by one column, in a drawer below the grid. A bar narrows to itself. */
@Component({
  selector: 'un-chart-panel',
  imports: [Choose],
  template: `
    <div class="top">
      <span>Matches by</span>
      <un-choose [options]="columnOptions()" [value]="column()" label="Matches by" (chosen)="chosen.set($event)" />
      <span>Narrow to</span>
      <un-choose
        [options]="barOptions()"
        value=""
        label="Narrow to a bar"
        placeholder="a bar …"
        (chosen)="narrowTo($event)"
      />
      @if (narrowed()) {
        <button type="button" class="plain" (click)="open()">Open {{ column() }} again</button>
      }
      <button type="button" class="plain close" (click)="closed.emit()">Close</button>
    </div>
    <div class="chart">
      <canvas #canvas role="img" [attr.aria-label]="said()"></canvas>
      @if (fallen()?.failed) {
        <p class="note" role="alert">The chart could not be fetched. It is tried again with the next search.</p>
      } @else if (columns().length === 0) {
        <p class="note">This table has no choice, date or number column to chart by.</p>
      } @else if (fallen() && bars().length === 0) {
        <p class="note">No row to chart.</p>
      }
    </div>
  `,
  host: { role: 'region', 'aria-label': 'Chart', tabindex: '-1' },
  styles: `
    :host {
      display: grid;
      grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
      height: 232px;
      padding: 8px 14px 10px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 10px;
    }
    .top {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 4px 10px;
      color: var(--soft-ink);
    }
    .close {
      margin-left: auto;
    }
    .chart {
      position: relative;
      min-height: 0;
    }
    .note {
      position: absolute;
      inset: 40% 0 auto;
      text-align: center;
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ChartPanel {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);
  readonly closed = output<void>();

  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private chart: Chart<'bar', number[], string> | undefined;

  protected readonly columns = computed(() => {
    const shown = this.store.readersView() ? new Set(this.store.layout().map(({ name }) => name)) : undefined;
    return (this.store.table()?.columns ?? [])
      .filter(({ kind, name }) => kind !== 'text' && (!shown || shown.has(name)))
      .map(({ name }) => name);
  });
  protected readonly chosen = signal('');
  protected readonly column = computed(() => this.chosen() || (this.columns()[0] ?? ''));
  protected readonly narrowed = computed(() =>
    this.store.pickers().some((one) => one.column === this.column() && pickerWords(one) !== ''),
  );

  private readonly asked = computed(() => {
    const [table, name] = [this.store.table(), this.column()];
    const column = table?.columns.find((one) => one.name === name);
    // Asked anew after each change of the table.
    return table && column && { table: table.id, column, box: this.store.box(), change: this.answers.answer()?.change };
  });
  protected readonly fallen = toSignal(
    toObservable(this.asked).pipe(
      debounceTime(200),
      switchMap((asked) => {
        if (!asked) return of(undefined);
        const { table, column, box } = asked;
        const question = {
          ...questionOf({ ...box, effect: 'show only matches', nothingTyped: 'every row', flip: false, sort: [] }),
        };
        const about = column.kind === 'date' || column.kind === 'number' ? 'range' : 'values';
        const offers = (strands: typeof question.strands) =>
          this.api.offers(table, { question: { ...question, strands }, column: column.name, of: about });
        return forkJoin([offers(question.strands), offers([])]).pipe(
          map(([matches, all]: [Offers, Offers]): Fallen => ({
            column: column.name,
            bars: barsOf(column, matches, all),
            failed: false,
          })),
          catchError(() => of<Fallen>({ column: column.name, bars: [], failed: true })),
        );
      }),
      startWith(undefined),
    ),
  );
  protected readonly bars = computed(() => this.fallen()?.bars ?? []);
  protected readonly columnOptions = computed(() => this.columns().map((name) => ({ name, value: name })));
  protected readonly barOptions = computed(() =>
    this.bars().flatMap(({ label, matches, rest, picker }, i) =>
      picker ? [{ name: `${label}: ${counted(matches)} of ${counted(matches + rest)}`, value: String(i) }] : [],
    ),
  );
  protected readonly said = computed(
    () =>
      `Matches by ${this.fallen()?.column ?? ''}: ` +
      this.bars()
        .filter(({ matches }) => matches > 0)
        .slice(0, 12)
        .map(({ label, matches }) => `${label} ${matches}`)
        .join(', '),
  );

  constructor() {
    takeFocus(inject<ElementRef<HTMLElement>>(ElementRef));
    effect(() => this.draw(this.bars()));
    inject(DestroyRef).onDestroy(() => this.chart?.destroy());
  }

  private draw(bars: readonly Bar[]): void {
    const canvas = this.canvas().nativeElement;
    const style = getComputedStyle(canvas);
    const token = (name: string): string => style.getPropertyValue(name).trim();
    const data = {
      labels: bars.map(({ label }) => label),
      datasets: [
        { label: 'matches', data: bars.map(({ matches }) => matches), backgroundColor: token('--thread') },
        { label: 'the rest', data: bars.map(({ rest }) => rest), backgroundColor: token('--hairline') },
      ],
    };
    if (this.chart) {
      this.chart.data = data;
      this.chart.update();
      return;
    }
    const font = { family: token('--sans') || 'sans-serif', size: 12 };
    const ticks = { color: token('--soft-ink'), font, maxRotation: 40 };
    this.chart = new Chart(canvas, {
      type: 'bar',
      data,
      options: {
        maintainAspectRatio: false,
        // What is being animated is not resized meanwhile, and now and then never is.
        animation: false,
        scales: {
          x: { stacked: true, ticks, grid: { display: false } },
          y: { stacked: true, ticks: { ...ticks, precision: 0 }, grid: { color: token('--faint') } },
        },
        plugins: { legend: { align: 'end', labels: { color: token('--soft-ink'), font, boxWidth: 12 } } },
        onClick: (_event, [hit]) => {
          if (hit) this.narrowTo(String(hit.index));
        },
      },
    });
  }

  /** Narrows to a bar by a picker on its column: the one there is, or a new one. */
  protected narrowTo(index: string): void {
    const picker = index === '' ? undefined : this.bars()[Number(index)]?.picker;
    if (!picker) return;
    const at = this.store
      .pickers()
      .findIndex((one) => one.column === picker.column && Object.keys(one).join() === Object.keys(picker).join());
    if (at < 0) this.store.addPicker(picker);
    else this.store.setPicker(at, picker);
  }

  protected open(): void {
    this.store.update({
      pickers: this.store.pickers().map((one) => (one.column === this.column() ? blankPicker(one) : one)),
    });
  }
}
