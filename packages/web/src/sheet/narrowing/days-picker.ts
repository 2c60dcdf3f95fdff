import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  output,
  signal,
  untracked,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { DatePicker } from 'primeng/datepicker';
import type { BoxPicker } from '../state/box-change';
import { SheetStore } from '../state/sheet-store';
import { calendarForm, dateOf, dayOf, type DaySpan, spansUpTo } from './day-spans';
import { PickerOffers } from './picker-offers';
import { datesExpected, typedDay } from './typed-values';
import { RangeBars } from './range-bars';

type Days = Extract<BoxPicker, { days: unknown }>;

/** Narrows from one day to another, both included: typed or from a calendar, in the column's own form; or a span of the data's. */
@Component({
  selector: 'un-days-picker',
  imports: [DatePicker, FormsModule, RangeBars],
  providers: [PickerOffers],
  template: `
    <un-range-bars [range]="range()" />
    <div class="range" (input)="onTyped($event)">
      @for (end of ends; track end) {
        <label [for]="'day-' + end">{{ end }}</label>
        <p-datepicker
          [inputId]="'day-' + end"
          [ngModel]="(end === 'from' ? from : to)()"
          (ngModelChange)="(end === 'from' ? from : to).set($event ?? undefined)"
          [keepInvalid]="true"
          (onSelect)="typed.delete(end); commit()"
          (onBlur)="commit()"
          (keydown.enter)="commit()"
          (onClearClick)="typed.delete(end); commit()"
          [dateFormat]="form()"
          [showIcon]="true"
          [showOnFocus]="false"
          [iconAriaLabel]="'Calendar for ' + end"
          [motionOptions]="still"
          appendTo="body"
          size="small"
        />
      }
    </div>
    <div class="spans">
      @for (span of spans(); track span.name) {
        <button type="button" class="plain" [title]="span.from + ' to ' + span.to" (click)="choose(span)">
          {{ span.name }}
        </button>
      }
      <button type="button" class="plain" (click)="choose({ name: '', from: '', to: '' })">any day</button>
    </div>
    <p class="note" role="status">{{ said() }}</p>
  `,
  styles: `
    .range {
      display: grid;
      grid-template-columns: auto 170px;
      gap: 6px 10px;
      align-items: center;
    }
    .spans {
      display: flex;
      flex-wrap: wrap;
      margin: 6px -6px 0;
    }
    .note {
      min-height: 20px;
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DaysPicker {
  private readonly offers = inject(PickerOffers);
  private readonly store = inject(SheetStore);
  readonly picker = input.required<Days>();
  readonly changed = output<BoxPicker>();

  protected readonly ends = ['from', 'to'] as const;
  protected readonly still = { disabled: true };
  protected readonly said = signal('');
  private readonly column = computed(() => this.picker().column);
  /** The day that is typed or chosen, until it is taken over. */
  protected readonly from = linkedSignal<Date | string | undefined>(() => dateOf(this.picker().days.from, false));
  protected readonly to = linkedSignal<Date | string | undefined>(() => dateOf(this.picker().days.to, true));
  /** The text in each end since a key or a paste changed it: the calendar reads one form only, and drops the rest. */
  protected readonly typed = new Map<'from' | 'to', string>();
  private readonly spec = computed(() => this.store.table()?.columns.find(({ name }) => name === this.column()));
  protected readonly form = computed(() => calendarForm(this.spec()));
  protected readonly range = computed(() => {
    const offered = this.offers.offered();
    return offered.state === 'there' ? offered.offers.range : null;
  });
  protected readonly spans = computed(() => {
    const range = this.range();
    return range ? spansUpTo(range.most) : [];
  });

  constructor() {
    effect(() => {
      const column = this.column();
      untracked(() => this.offers.ask({ column, of: 'range' }));
    });
  }

  protected choose({ from, to }: DaySpan): void {
    this.said.set('');
    this.put(from, to);
  }

  /** Heard here: the calendar tells of keys only, and not of what is pasted or dictated. */
  protected onTyped({ target }: Event): void {
    const end = this.ends.find((end) => target instanceof HTMLInputElement && target.id === `day-${end}`);
    if (end) this.typed.set(end, (target as HTMLInputElement).value);
  }

  /** Once for a date, however many keys it took. */
  protected commit(): void {
    const { days } = this.picker();
    const [from, to] = [this.end('from', days.from), this.end('to', days.to)];
    if (from === undefined || to === undefined) return;
    this.typed.clear();
    const reversed = from !== '' && to !== '' && dayOf(dateOf(from, false)) > dayOf(dateOf(to, true));
    this.said.set(reversed ? 'The ends were the wrong way round and were swapped.' : '');
    if (reversed) this.put(to, from);
    else this.put(from, to);
  }

  /** Reads an end as it is typed or chosen; undefined where what is typed is no date, which is said. */
  private end(end: 'from' | 'to', before: string): string | undefined {
    const chosen = (end === 'from' ? this.from : this.to)();
    const text = this.typed.get(end) ?? (typeof chosen === 'string' ? chosen : undefined);
    const column = this.spec();
    if (text === undefined || !column) {
      const day = chosen instanceof Date ? dayOf(chosen) : '';
      // A month or a year that was not touched stays one.
      return dayOf(dateOf(before, end === 'to')) === day ? before : day;
    }
    const day = typedDay(text, column);
    if (day === undefined) this.said.set(datesExpected(text, column, this.range()?.most));
    return day;
  }

  private put(from: string, to: string): void {
    const { days } = this.picker();
    if (days.from !== from || days.to !== to) this.changed.emit({ ...this.picker(), days: { from, to } });
  }
}
