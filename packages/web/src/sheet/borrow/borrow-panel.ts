import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { SuggestedPairing, TableSummary } from '@usual-needle/contract';
import { catchError, forkJoin, map, of, startWith, switchMap } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { Choose, type Option } from '../../look/choose';
import { Api } from '../../services/api';
import { patiently } from '../../services/latest';
import { Person } from '../../services/person';
import { Remarks } from '../../services/remarks';
import { TakingBack } from '../../services/taking-back';
import { listed } from '../../common/sentence';
import { Following } from '../live/following';
import { SheetStore } from '../state/sheet-store';
import { countWords, type BorrowDraft, ownColumns, requestOf } from './borrowing';
import { Tick } from '../../look/tick';

type Loaded =
  | { readonly state: 'loading' }
  | { readonly state: 'failed'; readonly message: string }
  | {
      readonly state: 'there';
      readonly tables: readonly TableSummary[];
      readonly pairings: readonly SuggestedPairing[];
    };

const SEVERAL: readonly Option[] = [
  { name: 'the first', value: 'first' },
  { name: 'all, one after the other', value: 'all' },
];
const EMPTY: BorrowDraft = { table: 0, key: '', matches: '', several: 'first', columns: [] };

const named = (names: readonly { readonly name: string }[]): Option[] =>
  names.map(({ name }) => ({ name, value: name }));

/** A sentence of what this table borrows, whose phrases are the controls; what it comes to is counted before it is done. */
@Component({
  selector: 'un-borrow-panel',
  imports: [Choose, Tick],
  templateUrl: './borrow-panel.html',
  styleUrl: './borrow-panel.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BorrowPanel {
  private readonly api = inject(Api);
  private readonly following = inject(Following);
  private readonly person = inject(Person);
  private readonly remarks = inject(Remarks);
  private readonly takingBack = inject(TakingBack);
  private readonly store = inject(SheetStore);
  /** Said once the columns are borrowed, or it is left. */
  readonly done = output<void>();
  /** Tells that what was to be fetched is there, or could not be: the focus is to go in. */
  readonly ready = output<void>();

  protected readonly several = SEVERAL;
  protected readonly draft = signal<BorrowDraft>(EMPTY);
  protected readonly busy = signal(false);
  /** Whether the box is to look in what is borrowed, too. One that looks in every column does anyway. */
  protected readonly looks = signal(true);
  protected readonly mayLook = computed(() => !this.store.definition().everyColumn);
  protected readonly loaded = signal<Loaded>({ state: 'loading' });
  protected readonly message = computed(() => {
    const loaded = this.loaded();
    return loaded.state === 'failed' ? loaded.message : '';
  });
  private readonly tables = computed(() => {
    const loaded = this.loaded();
    return loaded.state === 'there' ? loaded.tables : [];
  });
  protected readonly tableOptions = computed(() => this.tables().map(({ id, name }) => ({ name, value: String(id) })));
  protected readonly lender = computed(() => this.tables().find(({ id }) => id === this.draft().table));
  protected readonly keys = computed(() => {
    const table = this.store.table();
    return table ? named(ownColumns(table)) : [];
  });
  protected readonly there = computed(() => {
    const lender = this.lender();
    return lender ? named(ownColumns(lender)) : [];
  });
  protected readonly suggested = computed(() => {
    const loaded = this.loaded();
    if (loaded.state !== 'there') return [];
    return loaded.pairings.flatMap((pairing) => {
      const table = loaded.tables.find(({ id }) => id === pairing.table);
      const share = Math.floor(pairing.share * 100);
      return table
        ? [{ pairing, words: `${pairing.key} is the ${pairing.matches} of ${table.name}: ${share}% found` }]
        : [];
    });
  });
  protected readonly request = computed(() => requestOf(this.draft()));
  protected readonly does = computed(() => {
    const { columns } = this.draft();
    return columns.length === 0 ? 'Borrow' : `Borrow ${listed(columns)}`;
  });
  private readonly pairing = computed(
    () => {
      const { table, key, matches } = this.draft();
      return table !== 0 && key !== '' && matches !== '' ? { table, key, matches } : undefined;
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  /** The counts of the pairing, asked anew whenever it says something else. */
  protected readonly counts = toSignal(
    toObservable(this.pairing).pipe(
      switchMap((pairing) => {
        const table = this.store.table();
        if (!pairing || !table) return of('');
        return this.api.pairing(table.id, pairing).pipe(
          patiently(1),
          map((counts) => countWords(counts, pairing.matches)),
          catchError((error: unknown) => of(errorWords(error))),
          startWith('Counting …'),
        );
      }),
    ),
    { initialValue: '' },
  );

  constructor() {
    const own = this.store.table();
    if (!own) return;
    forkJoin([this.api.shelf(), this.api.lenders(own.id).pipe(patiently(1))])
      .pipe(takeUntilDestroyed())
      .subscribe({
        next: ([{ tables }, { pairings }]) => {
          this.loaded.set({ state: 'there', tables: tables.filter(({ id }) => id !== own.id), pairings });
          if (pairings.length > 0) this.take(pairings[0]);
          this.ready.emit();
        },
        error: (error: unknown) => {
          this.loaded.set({ state: 'failed', message: errorWords(error) });
          this.ready.emit();
        },
      });
  }

  protected choose(change: Partial<BorrowDraft>): void {
    this.draft.update((draft) => ({ ...draft, ...change }));
  }

  protected take({ table, key, matches }: SuggestedPairing): void {
    const same = table === this.draft().table;
    this.choose({ table, key, matches, ...(!same && { columns: [] }) });
  }

  protected toggle(name: string): void {
    const { columns } = this.draft();
    this.choose({ columns: columns.includes(name) ? columns.filter((one) => one !== name) : [...columns, name] });
  }

  protected borrow(): void {
    const [table, borrow, lender] = [this.store.table(), this.request(), this.lender()];
    if (!table || !borrow || !lender || this.busy()) return;
    this.busy.set(true);
    this.api.arrangeColumns(table, { borrow, ...this.person.asWho() }).subscribe({
      next: (changed) => {
        const before = new Set(table.columns.map(({ name }) => name));
        this.following.retable(changed);
        const added = changed.columns.map(({ name }) => name).filter((name) => !before.has(name));
        for (const name of added) this.store.show(name);
        if (this.looks() && this.mayLook()) this.store.thread(added);
        this.remarks.say(
          `${listed(added)} ${added.length === 1 ? 'is' : 'are'} borrowed from ${lender.name}.`,
          this.takingBack.offer(table.id, changed.change),
        );
        this.done.emit();
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.remarks.say(errorWords(error));
      },
    });
  }
}
