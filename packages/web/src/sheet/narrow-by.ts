import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import type { Column, Offers } from '@usual-needle/contract';
import { Popover } from 'primeng/popover';
import { counted } from '../services/numbers';
import { Api } from '../services/api';
import { blankPicker, newPicker, type Picker, pickerWords } from './box-change';
import { Answers } from './answers';
import { waysOf } from './column-menu';
import { SortPanel } from './sort-panel';
import { questionOf, SheetStore } from './sheet-store';

interface Chip {
  readonly at: number;
  readonly column: string;
  readonly asks: string;
}

/** The pickers beside the box, what the rows are sorted by, and the flip. */
@Component({
  selector: 'un-narrow-by',
  imports: [Popover, SortPanel],
  template: `
    <span class="label">Narrow by</span>
    @for (chip of chips(); track chip.at) {
      <button
        type="button"
        class="chip"
        aria-haspopup="dialog"
        [class.active]="chip.asks !== ''"
        (click)="open(chip.at, $event)"
      >
        <b>{{ chip.column }}</b> {{ chip.asks || 'any' }}
      </button>
    }
    @if (!store.reading()) {
      <button type="button" class="chip" aria-haspopup="dialog" aria-label="Add a picker" (click)="open(-1, $event)">
        +
      </button>
    }
    @if (active()) {
      <button type="button" class="plain" (click)="clear()">Clear all</button>
    }
    <span class="sorted">
      @if (sorted(); as by) {
        Sorted by
        <button type="button" class="phrase" aria-haspopup="dialog" (click)="sorting.toggle($event)">{{ by }}</button>
        <button type="button" class="plain" (click)="store.update({ sort: [] })">table’s own order</button>
      } @else {
        In
        <button type="button" class="phrase" aria-haspopup="dialog" (click)="sorting.toggle($event)">
          the table’s own order
        </button>
      }
    </span>
    <button
      type="button"
      class="chip flip"
      [class.active]="store.definition().flip"
      [attr.aria-pressed]="store.definition().flip ?? false"
      (click)="flip()"
    >
      {{ flipped() }}
    </button>
    <p-popover #sorting [focusOnShow]="true" ariaLabel="Sorting"><un-sort-panel /></p-popover>
    <p-popover #popover [focusOnShow]="true" ariaLabel="Narrowing">
      @if (opened() < 0) {
        <div class="list" role="menu" aria-label="Columns">
          @for (column of addable(); track column.name) {
            <button type="button" role="menuitem" (click)="add(column)">{{ column.name }}</button>
          }
        </div>
      } @else if (picker(); as one) {
        @if (values(one); as chosen) {
          <input
            class="narrow"
            type="text"
            placeholder="Type to find a value"
            aria-label="Find a value"
            (input)="typed.set($any($event.target).value)"
          />
          <div class="list">
            @for (offer of offered(); track offer.value) {
              <label>
                <input type="checkbox" [checked]="chosen.includes(offer.value)" (change)="toggle(offer.value)" />
                <span class="value">{{ offer.value || 'blank' }}</span>
                <span class="rows">{{ counted(offer.rows) }}</span>
              </label>
            } @empty {
              <p class="label">No value like that.</p>
            }
          </div>
        } @else if (days(one); as range) {
          <div class="range">
            <label
              >from <input type="date" [value]="range.from" (change)="setDays({ from: $any($event.target).value })"
            /></label>
            <label
              >to <input type="date" [value]="range.to" (change)="setDays({ to: $any($event.target).value })"
            /></label>
          </div>
        } @else if (numbers(one); as range) {
          <div class="bars" aria-hidden="true">
            @for (height of bars(); track $index) {
              <span [style.height.%]="height"></span>
            }
          </div>
          <div class="range">
            <label
              >from <input type="number" [value]="range.from" (change)="setNumbers({ from: number($event) })"
            /></label>
            <label>to <input type="number" [value]="range.to" (change)="setNumbers({ to: number($event) })" /></label>
          </div>
        } @else if (letters(one); as chosen) {
          <div class="range" role="radiogroup" aria-label="Where the letter stands">
            @for (position of positions; track position) {
              <label
                ><input
                  type="radio"
                  name="position"
                  [checked]="chosen.position === position"
                  (change)="setPosition(position)"
                />
                {{ position }} with</label
              >
            }
          </div>
          <div class="strip">
            @for (offer of offers()?.values ?? []; track offer.value) {
              <button
                type="button"
                [class.on]="chosen.letters.includes(offer.value)"
                [attr.aria-pressed]="chosen.letters.includes(offer.value)"
                [title]="counted(offer.rows) + ' rows'"
                (click)="toggleLetter(offer.value)"
              >
                {{ offer.value.toUpperCase() }}<small>{{ counted(offer.rows) }}</small>
              </button>
            }
          </div>
        } @else {
          <div class="list" role="radiogroup" aria-label="Answer">
            @for (answer of ['either', 'yes', 'no']; track answer) {
              <label
                ><input type="radio" name="answer" [checked]="isAnswer(one, answer)" (change)="setAnswer(answer)" />{{
                  answer
                }}</label
              >
            }
          </div>
        }
        @if (!store.reading()) {
          <button type="button" class="plain" (click)="remove()">Remove this picker</button>
        }
      }
    </p-popover>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 8px;
      margin: 0 0 12px 52px;
      min-height: 28px;
    }
    @media (max-width: 800px) {
      :host {
        margin: 6px 0 8px 6px;
      }
      .sorted {
        flex-basis: 100%;
        order: 3;
      }
    }
    .label,
    .sorted {
      color: var(--soft-ink);
    }
    .sorted {
      margin-left: auto;
    }
    .phrase {
      padding: 0;
      border: 0;
      background: none;
      color: var(--ink);
      font-weight: 600;
      text-decoration: underline dotted var(--thread);
      text-decoration-thickness: 2px;
      text-underline-offset: 4px;
    }
    .phrase:hover {
      color: var(--thread);
    }
    .strip {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      width: 340px;
      max-height: 40vh;
      overflow: auto;
      margin-bottom: 8px;
    }
    .strip button {
      width: 44px;
      padding: 3px 0 2px;
      background: var(--paper);
      border: 1px solid var(--hairline);
      border-radius: 6px;
      line-height: 1.2;
    }
    .strip button.on {
      border-color: var(--thread);
      box-shadow: inset 0 -3px 0 var(--thread);
    }
    .strip small {
      display: block;
      font-size: 10.5px;
      color: var(--soft-ink);
      font-variant-numeric: tabular-nums;
    }
    .chip {
      max-width: 320px;
      padding: 3px 12px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 999px;
      font-variant-numeric: tabular-nums;
    }
    .flip {
      min-width: 188px;
    }
    .chip:hover {
      border-color: var(--soft-ink);
    }
    .chip.active {
      border-color: var(--ink);
    }
    .list {
      display: grid;
      max-height: 50vh;
      min-width: 220px;
      overflow: auto;
    }
    .list > button {
      padding: 5px 8px;
      border: 0;
      background: none;
      text-align: left;
    }
    .list > button:hover {
      background: var(--header);
    }
    .list label {
      display: flex;
      gap: 8px;
      padding: 3px 4px;
    }
    .value {
      flex: 1;
    }
    .rows {
      color: var(--soft-ink);
      font-variant-numeric: tabular-nums;
    }
    .narrow {
      width: 100%;
      margin-bottom: 8px;
    }
    input[type='text'],
    input[type='date'],
    input[type='number'] {
      padding: 4px 8px;
      background: var(--paper);
      border: 1px solid var(--hairline);
      border-radius: 6px;
    }
    input[type='number'] {
      width: 110px;
    }
    input {
      accent-color: var(--thread);
    }
    .range {
      display: flex;
      gap: 12px;
      margin-bottom: 8px;
    }
    .bars {
      display: flex;
      align-items: flex-end;
      gap: 1px;
      height: 48px;
      margin-bottom: 8px;
      border-bottom: 1px solid var(--hairline);
    }
    .bars span {
      flex: 1;
      min-height: 1px;
      background: var(--thread);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NarrowBy {
  private readonly api = inject(Api);
  protected readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);
  private readonly popover = viewChild.required<Popover>('popover');

  protected readonly counted = counted;
  protected readonly opened = signal(-1);
  protected readonly typed = signal('');
  protected readonly offers = signal<Offers | undefined>(undefined);

  private readonly pickers = this.store.pickers;
  protected readonly picker = computed(() => this.pickers()[this.opened()]);
  protected readonly chips = computed<Chip[]>(() =>
    this.pickers().map((picker, at) => ({ at, column: picker.column, asks: pickerWords(picker) })),
  );
  protected readonly active = computed(() => this.chips().some(({ asks }) => asks !== ''));
  protected readonly addable = computed(() => this.store.table()?.columns ?? []);
  protected readonly offered = computed(() => {
    const typed = this.typed().toLowerCase();
    return (this.offers()?.values ?? []).filter(({ value }) => value.toLowerCase().includes(typed));
  });
  protected readonly bars = computed(() => {
    const bins = this.offers()?.range?.bins ?? [];
    const most = Math.max(1, ...bins);
    return bins.map((rows) => (rows / most) * 100);
  });
  protected readonly sorted = computed(() =>
    this.store
      .sort()
      .map(({ column, direction, by }) => {
        const kind = this.store.table()?.columns.find(({ name }) => name === column)?.kind;
        if (by === 'count') return `${column}, ${direction === 'up' ? 'least' : 'most'} shared values first`;
        return `${column}, ${waysOf(kind)[direction === 'up' ? 0 : 1]}`;
      })
      .join('; '),
  );
  protected readonly flipped = computed(() => {
    const answer = this.answers.answer();
    const others = answer ? counted(answer.total - answer.shown) : '';
    if (others === '0' && !this.store.definition().flip) return 'No others to flip to';
    return this.store.definition().flip ? `Flip back to the ${others}` : `Flip to the ${others} others`;
  });

  protected values(picker: Picker): readonly string[] | undefined {
    return 'values' in picker ? picker.values : undefined;
  }

  protected days(picker: Picker): { from: string; to: string } | undefined {
    return 'days' in picker ? picker.days : undefined;
  }

  protected numbers(picker: Picker): { from: number | null; to: number | null } | undefined {
    return 'numbers' in picker ? picker.numbers : undefined;
  }

  protected number(event: Event): number | null {
    const { value } = event.target as HTMLInputElement;
    return value === '' ? null : Number(value);
  }

  protected open(at: number, event: Event): void {
    this.opened.set(at);
    this.typed.set('');
    this.offers.set(undefined);
    this.popover().toggle(event);
    this.fetchOffers();
  }

  private fetchOffers(): void {
    const picker = this.picker();
    const table = this.store.table();
    if (!picker || !table) return;
    const of = 'numbers' in picker ? 'range' : 'letters' in picker ? (picker.position ?? 'starts') : 'values';
    this.api.offers(table.id, { question: questionOf(this.store.box()), column: picker.column, of }).subscribe({
      next: (offers) => this.offers.set(offers),
      error: () => this.offers.set({ values: [], range: null }),
    });
  }

  protected add(column: Column): void {
    this.store.addPicker(newPicker(column));
    this.popover().hide();
  }

  protected remove(): void {
    this.store.removePicker(this.opened());
    this.popover().hide();
  }

  protected clear(): void {
    this.store.update({ pickers: this.pickers().map(blankPicker) });
  }

  protected flip(): void {
    this.store.update({ flip: !this.store.box().flip });
  }

  protected toggle(value: string): void {
    const picker = this.picker();
    if (!picker || !('values' in picker)) return;
    const values = picker.values.includes(value)
      ? picker.values.filter((one) => one !== value)
      : [...picker.values, value];
    this.store.setPicker(this.opened(), { ...picker, values });
  }

  protected setDays(change: { from?: string; to?: string }): void {
    const picker = this.picker();
    if (picker && 'days' in picker)
      this.store.setPicker(this.opened(), { ...picker, days: { ...picker.days, ...change } });
  }

  protected setNumbers(change: { from?: number | null; to?: number | null }): void {
    const picker = this.picker();
    if (picker && 'numbers' in picker)
      this.store.setPicker(this.opened(), { ...picker, numbers: { ...picker.numbers, ...change } });
  }

  protected readonly positions = ['starts', 'contains'] as const;

  protected letters(picker: Picker): { letters: readonly string[]; position: 'starts' | 'contains' } | undefined {
    return 'letters' in picker ? { letters: picker.letters, position: picker.position ?? 'starts' } : undefined;
  }

  protected setPosition(position: 'starts' | 'contains'): void {
    const picker = this.picker();
    if (!picker || !('letters' in picker)) return;
    this.store.setPicker(this.opened(), { ...picker, position });
    this.fetchOffers();
  }

  protected toggleLetter(letter: string): void {
    const picker = this.picker();
    if (!picker || !('letters' in picker)) return;
    const letters = picker.letters.includes(letter) ? picker.letters.filter((one) => one !== letter) : [...picker.letters, letter]; // prettier-ignore
    this.store.setPicker(this.opened(), { ...picker, letters });
  }

  protected isAnswer(picker: Picker, answer: string): boolean {
    return 'answer' in picker && picker.answer === answer;
  }

  protected setAnswer(answer: string): void {
    const picker = this.picker();
    if (picker && 'answer' in picker) this.store.setPicker(this.opened(), { ...picker, answer: answer as 'either' });
  }
}
