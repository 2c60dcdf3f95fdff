import { CdkDrag, type CdkDragDrop, CdkDropList, moveItemInArray } from '@angular/cdk/drag-drop';
import {
  ApplicationRef,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  ElementRef,
  inject,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import type { Column } from '@usual-needle/contract';
import { PickerOffers } from '../narrowing/picker-offers';

/** The values of a choice column, to be put in an order of their own: dragged, or by the buttons, or by their keys. */
@Component({
  selector: 'un-value-order',
  imports: [CdkDrag, CdkDropList],
  providers: [PickerOffers],
  template: `
    @switch (offers.offered().state) {
      @case ('waiting') {
        <p>Fetching the values …</p>
      }
      @case ('failed') {
        <p role="alert">{{ offers.message() }}</p>
      }
    }
    <ol cdkDropList (cdkDropListDropped)="dropped($event)">
      @for (value of values(); track value) {
        <li cdkDrag cdkDragLockAxis="y">
          <span>{{ value }}</span>
          <button
            type="button"
            class="item"
            [disabled]="$first"
            [attr.aria-label]="'Earlier: ' + value"
            (click)="move($index, -1)"
          >
            ↑
          </button>
          <button
            type="button"
            class="item"
            [disabled]="$last"
            [attr.aria-label]="'Later: ' + value"
            (click)="move($index, 1)"
          >
            ↓
          </button>
        </li>
      }
    </ol>
    @if (values().length > 0) {
      <button type="button" class="plain" (click)="keep(values())">Keep this order</button>
    }
    @if (column().order) {
      <button type="button" class="plain" (click)="keep(null)">Back to A first</button>
    }
  `,
  styles: `
    ol {
      margin: 0 0 4px;
      padding: 0 8px 0 30px;
    }
    li {
      cursor: grab;
      background: var(--leaf);
    }
    span {
      display: inline-block;
      min-width: 140px;
    }
    li button {
      padding: 2px 8px;
      border: 0;
      background: none;
    }
    li button:disabled {
      opacity: 0.3;
    }
    .cdk-drag-preview {
      list-style: none;
    }
    .cdk-drag-placeholder {
      opacity: 0.3;
    }
    p {
      padding: 4px 8px;
      color: var(--soft-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ValueOrder {
  protected readonly offers = inject(PickerOffers);
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly app = inject(ApplicationRef);
  readonly column = input.required<Column>();
  /** The order made; null for none. */
  readonly kept = output<readonly string[] | null>();
  protected readonly values = signal<readonly string[]>([]);
  private readonly name = computed(() => this.column().name);
  /** Something has been moved, and is not kept yet. */
  private moved = false;

  constructor() {
    // Of another column only: of this one others may change something meanwhile, and what is being ordered stays as it is.
    effect(() => {
      const column = this.name();
      untracked(() => {
        this.moved = false;
        this.values.set([]);
        this.offers.ask({ column, of: 'values' });
      });
    });
    // As they are ordered here, or by now, then those that are not.
    effect(() => {
      const offered = this.offers.offered();
      if (offered.state !== 'there') return;
      const all = offered.offers.values.map(({ value }) => value).filter((value) => value !== '');
      const { order = [] } = this.column();
      const before = (this.moved ? untracked(this.values) : order).filter((value) => all.includes(value));
      this.values.set([...before, ...all.filter((value) => !before.includes(value)).sort()]);
    });
  }

  protected dropped({ previousIndex, currentIndex }: CdkDragDrop<unknown>): void {
    this.put(previousIndex, currentIndex);
  }

  private put(from: number, to: number): void {
    this.moved = true;
    const values = [...this.values()];
    moveItemInArray(values, from, to);
    this.values.set(values);
  }

  protected keep(order: readonly string[] | null): void {
    this.moved = false;
    this.kept.emit(order);
  }

  /** The button that moves it keeps the focus; at an end, where it can go no further, the other one has it. */
  protected move(at: number, by: 1 | -1): void {
    this.put(at, at + by);
    // Drawn in this task: the next key may be on its way to the button.
    this.app.tick();
    const [earlier, later] = this.element.querySelectorAll('li')[at + by].querySelectorAll('button');
    const [first, second] = by < 0 ? [earlier, later] : [later, earlier];
    (first.disabled ? second : first).focus();
  }
}
