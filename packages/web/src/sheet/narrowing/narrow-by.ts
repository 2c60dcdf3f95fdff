import {
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  Injector,
  afterNextRender,
  signal,
  viewChild,
} from '@angular/core';
import type { Column } from '@usual-needle/contract';
import { Hint } from '../../look/hint';
import { Pop } from '../../look/pop';
import { counted } from '../../services/numbers';
import { SortPanel } from '../grid/sort-panel';
import { GROUP_WAYS, waysOf } from '../grid/ways';
import { Answers } from '../state/answers';
import { blankPicker, newPicker, type BoxPicker, pickerWords } from '../state/box-change';
import { SheetStore } from '../state/sheet-store';
import { PickerPanel } from './picker-panel';

/** The pickers beside the box, what the rows are sorted by, and the flip. */
@Component({
  selector: 'un-narrow-by',
  imports: [Hint, PickerPanel, Pop, SortPanel],
  templateUrl: './narrow-by.html',
  styleUrl: './narrow-by.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NarrowBy {
  protected readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly injector = inject(Injector);
  private readonly pop = viewChild.required<Pop>('pop');

  /** The picker that is open: its number, or `add` for the list of columns to narrow by. */
  protected readonly opened = signal<number | 'add'>('add');
  private readonly pickers = this.store.pickers;
  protected readonly picker = computed(() => {
    const opened = this.opened();
    return opened === 'add' ? undefined : this.pickers()[opened];
  });
  protected readonly chips = computed(() =>
    this.pickers().map((picker, at) => ({
      at,
      column: picker.column,
      asks: pickerWords(
        picker,
        this.addable().find(({ name }) => name === picker.column),
      ),
    })),
  );
  protected readonly active = computed(() => this.chips().some(({ asks }) => asks !== ''));
  protected readonly addable = computed(() => this.store.table()?.columns ?? []);
  protected readonly sorted = computed(() =>
    this.store
      .sort()
      .map(({ column, direction, by }) => {
        if (by === 'count') return `${column}, ${GROUP_WAYS[direction === 'up' ? 0 : 1]}`;
        const [up, down] = waysOf(this.store.table()?.columns.find(({ name }) => name === column));
        return `${column}, ${direction === 'up' ? up : down}`;
      })
      .join('; '),
  );
  /** Rows left out of those that the pickers leave; undefined where that is not known of what is typed. */
  private readonly others = computed(() => {
    const answer = this.answers.answer();
    return answer && !this.answers.problem() ? answer.narrowed - answer.shown : undefined;
  });
  protected readonly flipped = computed(() => this.store.definition().flip ?? false);
  protected readonly canFlip = computed(() => this.flipped() || (this.others() ?? 1) > 0);
  protected readonly flip = computed(() => {
    const others = this.others();
    if (this.flipped()) return `Flip back${others === undefined ? '' : ` to the ${counted(others)}`}`;
    if (others === 0) return 'No others to flip to';
    return others === undefined ? 'Flip' : `Flip to the ${counted(others)} others`;
  });

  protected open(which: number | 'add', event: Event): void {
    this.opened.set(which);
    this.pop().toggle(event);
  }

  /** A picker opens as it is added. */
  protected add(column: Column): void {
    this.addPicker(newPicker(column));
  }

  addPicker(picker: BoxPicker): void {
    this.store.addPicker(picker);
    const at = this.pickers().length - 1;
    this.opened.set(at);
    afterNextRender(
      () => {
        const chip = this.host.querySelectorAll<HTMLElement>('.chip.picker')[at];
        if (chip) this.pop().show(chip);
      },
      { injector: this.injector },
    );
  }

  protected change(picker: BoxPicker): void {
    const opened = this.opened();
    if (opened !== 'add') this.store.setPicker(opened, picker);
  }

  protected remove(): void {
    const opened = this.opened();
    this.pop().hide();
    this.opened.set('add');
    if (opened !== 'add') this.store.removePicker(opened);
  }

  protected clear(): void {
    this.store.update({ pickers: this.pickers().map(blankPicker) });
  }

  protected turn(): void {
    if (this.canFlip()) this.store.update({ flip: !this.flipped() });
  }
}
