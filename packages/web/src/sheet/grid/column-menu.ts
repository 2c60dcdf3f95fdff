import { ChangeDetectionStrategy, Component, computed, inject, output, signal, viewChild } from '@angular/core';
import type { Column, ColumnChange } from '@usual-needle/contract';
import { kindOf, KINDS } from '../../common/column-kinds';
import { errorWords } from '../../common/error-words';
import { Choose } from '../../look/choose';
import { Pop } from '../../look/pop';
import { wayOf } from '@usual-needle/engine';
import type { Subscription } from 'rxjs';
import { unfitWords } from '../keep/unfit';
import { Api } from '../../services/api';
import { Person } from '../../services/person';
import { Remarks } from '../../services/remarks';
import { BorrowPanel } from '../borrow/borrow-panel';
import { BorrowedFrom } from '../borrow/borrowed-from';
import { newPicker, type BoxPicker } from '../state/box-change';
import { SheetStore } from '../state/sheet-store';
import { Following } from '../live/following';
import { ColumnKeeping } from './column-keeping';
import { ValueOrder } from './value-order';
import { GROUP_WAYS, waysOf } from './ways';

type ColumnForm = NonNullable<ColumnChange['shown']>;

interface Form {
  readonly name: string;
  readonly shown: ColumnForm;
}

const DATES: readonly Form[] = [
  { name: '18 Nov 2026', shown: { date: 'd MMM yyyy' } },
  { name: '18 November 2026', shown: { date: 'd MMMM yyyy' } },
  { name: '18/11/2026', shown: { date: 'dd/MM/yyyy' } },
  { name: '11/18/2026', shown: { date: 'MM/dd/yyyy' } },
  { name: '2026-11-18', shown: { date: 'yyyy-MM-dd' } },
];
const NUMBERS: readonly Form[] = [
  { name: '1250', shown: { number: { decimals: 0, grouping: false } } },
  { name: '1,250', shown: { number: { decimals: 0, grouping: true } } },
  { name: '1250.50', shown: { number: { decimals: 2, grouping: false } } },
  { name: '1,250.50', shown: { number: { decimals: 2, grouping: true } } },
];
const AS_IT_CAME = { name: 'as it was brought in', value: '' };
const STEP = 40;

/** The menu of one column, at its header. */
@Component({
  selector: 'un-column-menu',
  imports: [BorrowedFrom, BorrowPanel, Choose, Pop, ValueOrder, ColumnKeeping],
  templateUrl: './column-menu.html',
  styleUrl: './column-menu.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ColumnMenu {
  private readonly api = inject(Api);
  private readonly following = inject(Following);
  private readonly person = inject(Person);
  private readonly remarks = inject(Remarks);
  protected readonly store = inject(SheetStore);
  private readonly pop = viewChild.required(Pop);
  /** A picker is to be added, and opened. */
  readonly narrows = output<BoxPicker>();

  protected readonly step = STEP;
  private readonly name = signal('');
  /** The values of the column are being put in an order. */
  protected readonly ordering = signal(false);
  /** True while a column of another table is being chosen; then nothing else can be. */
  protected readonly borrowing = signal(false);
  protected readonly column = computed(() => this.store.table()?.columns.find(({ name }) => name === this.name()));
  private readonly forms = computed(() => {
    const kind = this.column()?.kind;
    return kind === 'date' ? DATES : kind === 'number' ? NUMBERS : [];
  });
  protected readonly formOptions = computed(() =>
    this.forms().length === 0 ? [] : [AS_IT_CAME, ...this.forms().map(({ name }) => ({ name, value: name }))],
  );
  protected readonly formNow = computed(() => {
    const shown = JSON.stringify(this.column()?.shown);
    return this.forms().find((form) => JSON.stringify(form.shown) === shown)?.name ?? '';
  });
  protected readonly kindOptions = KINDS.map(({ words }) => ({ name: words, value: words }));
  protected readonly kindNow = computed(() => {
    const column = this.column();
    return (column && kindOf(column)?.words) ?? '';
  });
  protected readonly ways = computed(() => waysOf(this.column()));
  protected readonly largestFirst = GROUP_WAYS[1];
  protected readonly onlyOne = computed(() => this.store.layout().length === 1);

  /** How many cells the column's kind cannot read; empty without any, and until that is known. */
  protected readonly unfit = signal('');
  private counting: Subscription | undefined;

  private countUnfit(): void {
    this.counting?.unsubscribe();
    this.unfit.set('');
    const [table, column] = [this.store.table(), this.column()];
    if (!table || !column || wayOf(column) === undefined) return;
    const question = { threaded: [], pickers: [{ column: column.name, unfit: true as const }] };
    this.counting = this.api.search(table.id, { question, limit: 0, brief: true }).subscribe({
      next: ({ narrowed }) => this.unfit.set(narrowed === 0 ? '' : unfitWords(column, narrowed)),
      error: () => undefined,
    });
  }

  /** Narrows to those cells. */
  protected listUnfit(): void {
    this.store.addPicker({ column: this.name(), unfit: true });
    this.hide();
  }

  open(name: string, event: Event): void {
    this.name.set(name);
    this.countUnfit();
    this.ordering.set(false);
    this.borrowing.set(false);
    this.pop().toggle(event);
  }

  protected borrow(): void {
    this.borrowing.set(true);
    this.focusIn();
  }

  protected focusIn(): void {
    this.pop().focusIn();
  }

  protected hide(): void {
    this.pop().hide();
  }

  protected sort(direction: 'up' | 'down', by: 'value' | 'count' = 'value'): void {
    this.store.update({ sort: [{ column: this.name(), direction, by }] });
    this.hide();
  }

  protected narrow(column: Column, letters: boolean): void {
    this.hide();
    this.narrows.emit(letters ? { column: column.name, letters: [], position: 'starts' } : newPicker(column));
  }

  protected widen(by: number): void {
    const column = this.store.layout().find(({ name }) => name === this.name());
    if (column) this.store.setWidth(column.name, column.width + by);
  }

  protected hideColumn(): void {
    if (this.store.toggleShown(this.name())) this.hide();
    else this.remarks.say('One column always stays.');
  }

  protected show(form: string): void {
    this.change({ name: this.name(), shown: this.forms().find(({ name }) => name === form)?.shown ?? null });
  }

  /** Another kind: the cells stay as they are, and so nothing is lost by it. */
  protected hold(words: string): void {
    const choice = KINDS.find((one) => one.words === words);
    if (!choice || words === this.kindNow()) return;
    // The usual way of reading is said, too: otherwise that of before would stay.
    const { kind, dateOrder = 'year first', decimal = 'point' } = choice.to;
    const reads = kind === 'date' ? { dateOrder } : kind === 'number' ? { decimal } : {};
    this.change({ name: this.name(), kind, ...reads });
  }

  protected order(): void {
    this.ordering.set(true);
    this.focusIn();
  }

  protected keepOrder(values: readonly string[] | null): void {
    this.change({ name: this.name(), order: values && [...values] });
    this.hide();
  }

  /** The column is the table's, so everybody sees it so. */
  private change(change: ColumnChange): void {
    const table = this.store.table();
    if (!table) return;
    this.api.changeColumn(table, { ...change, ...this.person.asWho() }).subscribe({
      next: (changed) => {
        this.following.retable(changed);
        this.remarks.say(`${change.name} is changed for everybody who uses this table.`);
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }
}
