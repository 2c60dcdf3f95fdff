import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import type { Column, TableSummary } from '@usual-needle/contract';
import type { Observable } from 'rxjs';
import { KINDS } from '../../common/column-kinds';
import { DependentsList } from '../../common/dependents';
import { errorWords } from '../../common/error-words';
import { Choose } from '../../look/choose';
import { Api } from '../../services/api';
import { plural, rowsCounted } from '../../services/numbers';
import { Person } from '../../services/person';
import { Remarks } from '../../services/remarks';
import { TakingBack } from '../../services/taking-back';
import { PickerOffers } from '../narrowing/picker-offers';
import { Following } from '../live/following';
import { SheetStore } from '../state/sheet-store';
import { InputText } from 'primeng/inputtext';

type Doing = 'rename' | 'add' | 'value' | 'remove';

const NEEDS_A_NAME = 'A column needs a name.';

/** The things that a keeper does with a column of the table: for everybody who uses it, in the history, and undone from there or at once. */
@Component({
  selector: 'un-column-keeping',
  imports: [Choose, DependentsList, InputText],
  providers: [PickerOffers],
  template: `
    @switch (doing()) {
      @case ('rename') {
        <form class="small-form" (submit)="$event.preventDefault(); rename(name.value)">
          <label>
            Another name for {{ column().name }}
            <input #name pInputText class="entry" autofocus maxlength="200" [value]="column().name" />
          </label>
          <button type="submit">Call it that</button>
        </form>
      }
      @case ('add') {
        <form class="small-form" (submit)="$event.preventDefault(); add(name.value)">
          <label>Name of the new column <input #name pInputText class="entry" autofocus maxlength="200" /></label>
          <div>Holds <un-choose [options]="kinds" [value]="kind()" label="It holds" (chosen)="kind.set($event)" /></div>
          <button type="submit">Add it</button>
        </form>
      }
      @case ('value') {
        <form class="small-form" (submit)="$event.preventDefault(); renameValue(to.value)">
          <div>Value <un-choose [options]="values()" [value]="from()" label="Value" (chosen)="from.set($event)" /></div>
          <label>
            is to be, in every row
            <input #to pInputText class="entry" autofocus maxlength="1000" [value]="from()" />
          </label>
          <p>{{ merges(to.value) }}</p>
          <button type="submit" [disabled]="from() === ''">Write it so</button>
        </form>
      }
      @case ('remove') {
        <un-dependents
          [table]="store.table()!.id"
          [column]="column().name"
          does="Remove it from the table"
          (goes)="remove()"
        />
      }
      @default {
        <button type="button" class="item" (click)="begin('rename')">Rename …</button>
        @if (column().kind === 'choice' && !column().borrows) {
          <button type="button" class="item" (click)="begin('value')">Rename one of its values …</button>
        }
        <button type="button" class="item" (click)="begin('add')">Add a column …</button>
        <button type="button" class="item" (click)="begin('remove')">Remove from the table …</button>
      }
    }
  `,
  styles: `
    :host {
      display: grid;
    }
    .item {
      padding: 5px 8px;
      border: 0;
      border-radius: 6px;
      background: none;
      text-align: left;
    }
    .item:hover {
      background: var(--header);
    }
    form {
      padding: 6px 8px;
      max-width: 300px;
    }
    p {
      color: var(--soft-ink);
      font-size: 12.5px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ColumnKeeping {
  private readonly api = inject(Api);
  private readonly following = inject(Following);
  private readonly offers = inject(PickerOffers);
  private readonly person = inject(Person);
  private readonly remarks = inject(Remarks);
  private readonly takingBack = inject(TakingBack);
  protected readonly store = inject(SheetStore);
  readonly column = input.required<Column>();
  /** Said once it is done, or has failed. */
  readonly done = output<void>();
  /** A form has been opened: the focus is to go there. */
  readonly opened = output<void>();

  protected readonly doing = signal<Doing | undefined>(undefined);
  protected readonly kinds = KINDS.map(({ words }) => ({ name: words, value: words }));
  protected readonly kind = signal(KINDS[0].words);
  protected readonly from = signal('');
  private readonly offered = computed(() => {
    const offered = this.offers.offered();
    return offered.state === 'there' ? offered.offers.values : [];
  });
  protected readonly values = computed(() =>
    this.offered()
      .filter(({ value }) => value !== '')
      .map(({ value }) => ({ name: value, value })),
  );

  protected begin(doing: Doing): void {
    this.doing.set(doing);
    this.from.set('');
    if (doing === 'value') this.offers.ask({ column: this.column().name });
    this.opened.emit();
  }

  /** Tells what becomes of two values that are to be one. */
  protected merges(to: string): string {
    const from = this.from();
    const count = this.offered().find(({ value }) => value === from)?.rows ?? 0;
    if (from === '' || to === from) return '';
    const there = this.offered().some(({ value }) => value === to);
    return `${rowsCounted(count)}${there ? `, which join those that have “${to}”` : ''}.`;
  }

  private run(table: TableSummary, asked: Observable<TableSummary>, words: string, then?: () => void): void {
    asked.subscribe({
      next: (changed) => {
        this.following.retable(changed);
        then?.();
        this.remarks.say(words, this.takingBack.offer(table.id, changed.change));
        this.done.emit();
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  protected rename(to: string): void {
    const table = this.store.table();
    const { name } = this.column();
    if (!table) return;
    if (to.trim() === '') return this.remarks.say(NEEDS_A_NAME);
    if (to.trim() === name) return this.done.emit();
    const change = { name, rename: to.trim(), ...this.person.asWho() };
    this.run(
      table,
      this.api.changeColumn(table, change),
      `${name} is called ${to.trim()} from now on. The old name goes on finding it.`,
    );
  }

  protected add(name: string): void {
    const table = this.store.table();
    const choice = KINDS.find(({ words }) => words === this.kind());
    if (!table || !choice) return;
    if (name.trim() === '') return this.remarks.say(NEEDS_A_NAME);
    const { kind } = choice.to;
    const request = { add: { name: name.trim(), kind }, ...this.person.asWho() };
    this.run(table, this.api.arrangeColumns(table, request), `${name.trim()} is added, blank in every row.`, () => {
      this.store.show(name.trim());
    });
  }

  protected remove(): void {
    const table = this.store.table();
    const { name } = this.column();
    if (!table) return;
    this.run(
      table,
      this.api.changeColumn(table, { name, removed: true, ...this.person.asWho() }),
      `${name} is removed from the table, for everybody.`,
    );
  }

  protected renameValue(to: string): void {
    const table = this.store.table();
    const from = this.from();
    if (!table || from === '') return;
    if (to === from) return this.done.emit();
    this.api.renameValue(table.id, { column: this.column().name, from, to, ...this.person.asWho() }).subscribe({
      next: ({ rows, number }) => {
        this.remarks.say(
          `${plural(rows, 'row')} had “${from}” and ${rows === 1 ? 'has' : 'have'} “${to}” now.`,
          this.takingBack.offer(table.id, number),
        );
        this.done.emit();
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }
}
