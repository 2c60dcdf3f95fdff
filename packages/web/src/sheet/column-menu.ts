import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import type { Column, ColumnChange } from '@usual-needle/contract';
import { Popover } from 'primeng/popover';
import { Api } from '../services/api';
import { Remarks } from '../services/remarks';
import { Answers, messageOf } from './answers';
import { newPicker } from './box-change';
import { questionOf, SheetStore } from './sheet-store';

type Shown = NonNullable<ColumnChange['shown']>;

const DATES: readonly { readonly name: string; readonly shown: Shown }[] = [
  { name: '18 Nov 2026', shown: { date: 'd MMM yyyy' } },
  { name: '18 November 2026', shown: { date: 'd MMMM yyyy' } },
  { name: '18/11/2026', shown: { date: 'dd/MM/yyyy' } },
  { name: '11/18/2026', shown: { date: 'MM/dd/yyyy' } },
  { name: '2026-11-18', shown: { date: 'yyyy-MM-dd' } },
];
const NUMBERS: readonly { readonly name: string; readonly shown: Shown }[] = [
  { name: '1250', shown: { number: { decimals: 0, grouping: false } } },
  { name: '1,250', shown: { number: { decimals: 0, grouping: true } } },
  { name: '1250.50', shown: { number: { decimals: 2, grouping: false } } },
  { name: '1,250.50', shown: { number: { decimals: 2, grouping: true } } },
];
const STEP = 40;

/** What can be done with one column, at its header. */
@Component({
  selector: 'un-column-menu',
  imports: [Popover],
  template: `
    <p-popover #popover [focusOnShow]="true" ariaLabel="What to do with this column">
      @if (column(); as one) {
        <div class="list">
          <p class="title">{{ one.name }}</p>
          <button type="button" (click)="sort('up')">Sort {{ ways()[0] }}</button>
          <button type="button" (click)="sort('down')">Sort {{ ways()[1] }}</button>
          <button type="button" (click)="sort('down', 'count')">Sort by how many rows share a value</button>
          @if (store.sort().length > 0) {
            <button type="button" (click)="store.sortBy(one.name, true); hide()">Sort by it as a further level</button>
          }
          @if (!store.reading()) {
            <hr />
            <button type="button" (click)="narrow(false)">Narrow by it</button>
            @if (one.kind === 'text' || one.kind === 'choice') {
              <button type="button" (click)="narrow(true)">Narrow by its letters</button>
            }
            <hr />
            <div class="two">
              <button type="button" (click)="store.moveColumn(one.name, -1)">Move left</button>
              <button type="button" (click)="store.moveColumn(one.name, 1)">Move right</button>
            </div>
            <div class="two">
              <button type="button" (click)="widen(step)">Wider</button>
              <button type="button" (click)="widen(-step)">Narrower</button>
            </div>
            <button type="button" (click)="store.toggleShown(one.name); hide()">Hide this column</button>
            @if (forms().length > 0) {
              <hr />
              <label
                >Shown as
                <select class="entry" (change)="show($any($event.target).value)">
                  <option value="">as it was brought in</option>
                  @for (form of forms(); track form.name) {
                    <option [value]="form.name" [selected]="form.name === formNow()">{{ form.name }}</option>
                  }
                </select>
              </label>
            }
            @if (one.kind === 'choice') {
              <hr />
              @if (order(); as values) {
                <ol>
                  @for (value of values; track value) {
                    <li>
                      <span>{{ value }}</span>
                      <button
                        type="button"
                        [disabled]="$first"
                        [attr.aria-label]="'Earlier: ' + value"
                        (click)="lift($index)"
                      >
                        ↑
                      </button>
                    </li>
                  }
                </ol>
                <button type="button" (click)="keepOrder(values)">Keep this order</button>
                @if (one.order) {
                  <button type="button" (click)="keepOrder(null)">Back to A to Z</button>
                }
              } @else {
                <button type="button" (click)="readOrder(one)">Put its values in an order …</button>
              }
            }
          }
        </div>
      }
    </p-popover>
  `,
  styles: `
    .list {
      display: grid;
      min-width: 216px;
      max-height: 70vh;
      overflow: auto;
    }
    .title {
      margin: 0 8px 6px;
      font-size: 13px;
      color: var(--soft-ink);
      font-weight: 600;
    }
    button {
      padding: 5px 8px;
      border: 0;
      border-radius: 6px;
      background: none;
      text-align: left;
    }
    button:hover:enabled {
      background: var(--header);
    }
    .two {
      display: grid;
      grid-template-columns: 1fr 1fr;
    }
    hr {
      width: 100%;
      margin: 4px 0;
      border: 0;
      border-top: 1px solid var(--hairline);
    }
    label {
      display: grid;
      gap: 4px;
      padding: 4px 8px;
      color: var(--soft-ink);
    }
    ol {
      margin: 0 0 4px;
      padding: 0 8px 0 30px;
    }
    li > span {
      display: inline-block;
      min-width: 140px;
    }
    li button {
      padding: 2px 8px;
    }
    li button:disabled {
      opacity: 0.3;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ColumnMenu {
  private readonly api = inject(Api);
  private readonly answers = inject(Answers);
  private readonly remarks = inject(Remarks);
  protected readonly store = inject(SheetStore);
  private readonly popover = viewChild.required(Popover);

  protected readonly step = STEP;
  private readonly name = signal('');
  /** Values of a choice column, in the order that is being made. */
  protected readonly order = signal<readonly string[] | undefined>(undefined);
  protected readonly column = computed(() => this.store.table()?.columns.find(({ name }) => name === this.name()));
  protected readonly forms = computed(() => {
    const kind = this.column()?.kind;
    return kind === 'date' ? DATES : kind === 'number' ? NUMBERS : [];
  });
  protected readonly formNow = computed(() => {
    const shown = JSON.stringify(this.column()?.shown);
    return this.forms().find((form) => JSON.stringify(form.shown) === shown)?.name ?? '';
  });
  protected readonly ways = computed(() => waysOf(this.column()?.kind));

  open(name: string, event: Event): void {
    this.name.set(name);
    this.order.set(undefined);
    this.popover().toggle(event);
  }

  protected hide(): void {
    this.popover().hide();
  }

  protected sort(direction: 'up' | 'down', by: 'value' | 'count' = 'value'): void {
    this.store.update({ sort: [{ column: this.name(), direction, by }] });
    this.hide();
  }

  protected narrow(letters: boolean): void {
    const column = this.column();
    if (!column) return;
    this.store.addPicker(letters ? { column: column.name, letters: [], position: 'starts' } : newPicker(column));
    this.hide();
  }

  protected widen(by: number): void {
    const column = this.store.layout().find(({ name }) => name === this.name());
    if (column) this.store.setWidth(column.name, column.width + by);
  }

  protected show(form: string): void {
    this.change({ name: this.name(), shown: this.forms().find(({ name }) => name === form)?.shown ?? null });
  }

  /** The values as they are ordered now, then those that are not. */
  protected readOrder(column: Column): void {
    const table = this.store.table();
    if (!table) return;
    const question = { ...questionOf(this.store.box()), strands: [], pickers: [] };
    this.api.offers(table.id, { question, column: column.name }).subscribe({
      next: ({ values }) => {
        const all = values.map(({ value }) => value).filter((value) => value !== '');
        const before = (column.order ?? []).filter((value) => all.includes(value));
        this.order.set([...before, ...all.filter((value) => !before.includes(value)).sort()]);
      },
      error: (error: unknown) => this.remarks.say(messageOf(error)),
    });
  }

  protected lift(at: number): void {
    const values = [...this.order()!];
    [values[at - 1], values[at]] = [values[at], values[at - 1]];
    this.order.set(values);
  }

  protected keepOrder(values: readonly string[] | null): void {
    this.change({ name: this.name(), order: values && [...values] });
    this.hide();
  }

  /** The column is the table's, so everybody sees it so. */
  private change(change: ColumnChange): void {
    const table = this.store.table();
    if (!table) return;
    this.api.changeColumn(table, change).subscribe({
      next: (changed) => {
        this.store.table.set(changed);
        this.answers.askAgain();
        this.remarks.say(`${change.name} is changed for everybody who uses this table.`);
      },
      error: (error: unknown) => this.remarks.say(messageOf(error)),
    });
  }
}

/** What up and down are called for a kind of column. */
export function waysOf(kind: Column['kind'] | undefined): readonly [string, string] {
  if (kind === 'date') return ['oldest first', 'newest first'];
  if (kind === 'number') return ['least first', 'most first'];
  return ['A to Z', 'Z to A'];
}
