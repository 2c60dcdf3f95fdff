import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import type { FileChoices, TableSummary } from '@usual-needle/contract';
import { tableName, withTidied, type ColumnLook, type Trouble } from '@usual-needle/formats';
import { catchError, EMPTY, of, switchMap } from 'rxjs';
import { isComposing } from '../common/composing';
import { errorWords } from '../common/error-words';
import { Logo } from '../look/logo';
import { Pop } from '../look/pop';
import { Api } from '../services/api';
import { plural } from '../services/numbers';
import { Remarks } from '../services/remarks';
import { TakingBack } from '../services/taking-back';
import { TraceStrip } from '../sheet/grid/trace';
import { ColumnChoices } from './column-choices';
import { FileSettings, type FileSetting } from './file-settings';
import { Incoming } from './incoming';
import { Looking } from './looking';
import { PreviewRows } from './preview-rows';
import { Refreshing } from './refreshing';
import { RefreshRows } from './refresh-rows';
import { type ChosenColumn, sentChoices } from './sent-choices';
import { TroubleList } from './trouble-list';
import { GoingOn } from './going-on';
import { lookWords, progressWords } from './progress-words';
import type { WayOut } from './words';

/** Nothing has been chosen for a file yet. */
const UNTOUCHED: FileChoices = {};

/** A file before it is brought in: as a new table, or as newer rows of one. Nothing is stored until it is said so. */
@Component({
  selector: 'un-bring-in',
  imports: [ColumnChoices, FileSettings, Logo, Pop, PreviewRows, RefreshRows, RouterLink, TraceStrip, TroubleList],
  providers: [Looking, Refreshing],
  templateUrl: './bring-in.html',
  styleUrl: './bring-in.css',
  host: {
    '(document:keydown)': 'key($event)',
    '(document:dragover)': '$event.preventDefault()',
    '(document:drop)': 'drop($event)',
    '(window:beforeunload)': 'leaving($event)',
  },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BringIn {
  /** The table to refresh; none for a new one. */
  readonly tableId = input<string>();

  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly remarks = inject(Remarks);
  private readonly takingBack = inject(TakingBack);
  protected readonly incoming = inject(Incoming);
  protected readonly looking = inject(Looking);
  protected readonly refreshing = inject(Refreshing);
  protected readonly pop = viewChild.required(Pop);

  protected readonly choices = signal<FileChoices>(UNTOUCHED);
  private readonly named = signal<string | undefined>(undefined);
  protected readonly setting = signal<FileSetting | { readonly column: number }>('format');
  private readonly going = inject(GoingOn);
  protected readonly progress = this.going.progress;
  private readonly own = signal('');
  protected readonly error = computed(() => this.own() || this.going.failed());
  protected readonly typed = signal('');

  protected readonly file = this.incoming.file;
  protected readonly name = computed(() => this.named() ?? tableName(this.file()?.name ?? ''));
  protected readonly look = this.looking.look;
  protected readonly table = signal<TableSummary | undefined>(undefined);
  protected readonly missing = signal('');

  protected readonly words = computed(() => {
    const look = this.look();
    return look && lookWords(look, this.file()?.size ?? 1);
  });
  /** The words on the upload. */
  protected readonly goes = computed(() => {
    const progress = this.progress();
    return progress && progressWords(progress, this.look()?.rows ?? 0);
  });
  protected readonly isComposing = isComposing;
  protected readonly percent = (part: number): number => Math.round(part * 100);
  /** Place of the column whose choices are open; -1 if those of the file are. */
  protected readonly columnSetting = computed(() => {
    const setting = this.setting();
    return typeof setting === 'object' ? setting.column : -1;
  });
  protected readonly fileSetting = computed<FileSetting | undefined>(() => {
    const setting = this.setting();
    return typeof setting === 'object' ? undefined : setting;
  });
  protected readonly columnOpen = computed<ColumnLook | undefined>(() => this.look()?.columns[this.columnSetting()]);
  protected readonly canBring = computed(() => {
    const look = this.look();
    if (!look || !this.looking.settled() || this.progress() || this.looking.failed() !== '') return false;
    if (this.tableId() === undefined) return this.name().trim() !== '';
    return this.refreshing.plan() !== undefined && !this.refreshing.unsettled();
  });
  protected readonly places = computed(() => this.look()?.places ?? []);
  protected readonly placeNumbers = computed(() => this.places().map((_, i) => i));
  protected readonly view = computed(() => {
    const showing = this.looking.showing();
    const { length } = this.places();
    if (typeof showing === 'object' && 'place' in showing)
      return { from: showing.place / length, to: (showing.place + 1) / length };
    const look = this.look();
    return { from: 0, to: showing === 'first' && look ? Math.min(1, 200 / Math.max(1, look.rows)) : 0 };
  });
  protected readonly shown = computed(() => {
    if (this.table() && this.refreshing.plan()) return 'The first 200 rows of each sort are shown';
    const showing = this.looking.showing();
    const rows = this.looking.rows().length;
    if (showing === 'first') return `First ${plural(rows, 'row')} shown; the strip at the right has the whole file`;
    return 'place' in showing
      ? `${plural(rows, 'row')} from this place of the file shown`
      : `${plural(rows, 'row')} that this is about shown`;
  });

  constructor() {
    effect(() => {
      const file = this.file();
      if (!file) return;
      untracked(() => {
        this.choices.set(UNTOUCHED);
        this.named.set(undefined);
        this.typed.set('');
        this.look.set(undefined);
        this.own.set('');
        if (!untracked(this.going.isGoing)) this.going.failed.set('');
        this.looking.lookAt(file, {});
      });
    });
    toObservable(this.tableId)
      .pipe(
        switchMap((id) =>
          id === undefined
            ? of(undefined)
            : this.api.table(Number(id)).pipe(catchError((error: unknown) => this.fail(error))),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((table) => this.table.set(table));
    // What a refresh would do is asked again with each choice, once the file has been looked through.
    effect(() => {
      const [file, table, look, choices] = [this.file(), this.table(), this.look(), this.choices()];
      if (file && table && look?.done) this.refreshing.ask(file, table, look, choices);
    });
    // A newer file is tidied as the one before was, until it is chosen otherwise.
    effect(() => {
      const [look, tidied] = [this.look(), this.table()?.refreshedBy?.tidied];
      if (!look || !tidied || untracked(this.choices) !== UNTOUCHED) return;
      const names = look.columns.map(({ name }) => name);
      untracked(() => this.choose(withTidied(tidied, names, {})));
    });
    effect(() => this.looking.tryBox(this.typed()));
    // Whoever is still here goes on to what has come of it.
    this.going.ended.pipe(takeUntilDestroyed()).subscribe(({ of: { table }, done }) => this.brought(table, done));
  }

  private fail(error: unknown): typeof EMPTY {
    this.missing.set(errorWords(error));
    return EMPTY;
  }

  protected open(setting: FileSetting | { readonly column: number }, event: Event): void {
    this.setting.set(setting);
    this.pop().toggle(event);
  }

  /** Follows a choice: the preview shows at once what comes of it. */
  protected choose(change: Partial<FileChoices>): void {
    const file = this.file();
    if (!file) return;
    const renewed = 'delimiter' in change || 'encoding' in change || 'sheet' in change || 'header' in change;
    // Columns of a file that is read in another way are others.
    const columns = renewed ? undefined : this.choices().columns;
    this.choices.set({ ...this.choices(), columns, ...change });
    this.looking.lookAt(file, this.choices());
  }

  protected chooseColumn(i: number, to: ChosenColumn): void {
    const columns = [...(this.choices().columns ?? [])];
    while (columns.length < (this.look()?.columns.length ?? 0)) columns.push({});
    const { kind, dateOrder, decimal, firstYear, ...others } = { ...columns[i], ...to };
    // A way of reading is that of its kind.
    const reads =
      to.kind === undefined
        ? { kind, dateOrder, decimal, firstYear }
        : { kind, dateOrder: to.dateOrder, decimal: to.decimal, firstYear: to.firstYear };
    columns[i] = JSON.parse(JSON.stringify({ ...others, ...reads })) as (typeof columns)[number];
    this.choose({ columns });
  }

  /** A column of the file is one of the table's, or one of its own. @param name as it is called in the file, or was chosen to be */
  protected matchColumn(name: string, to: string): void {
    const at = this.look()?.columns.findIndex((one) => one.name === name || one.column.name === name) ?? -1;
    if (at >= 0) this.chooseColumn(at, { name: to });
  }

  protected leaveColumnOut(name: string): void {
    const at = this.look()?.columns.findIndex((one) => one.column.name === name) ?? -1;
    if (at >= 0) this.chooseColumn(at, { take: false });
  }

  protected take({ change }: WayOut): void {
    if ('to' in change) this.chooseColumn(change.column, change.to);
    else this.choose(change);
  }

  protected rename(name: string): void {
    if (name.trim() !== '') this.named.set(name.trim());
    this.pop().hide();
  }

  protected showTrouble({ what, column }: Trouble): void {
    this.looking.show({ what, column });
  }

  protected choseFile(event: Event): void {
    const input = event.target as HTMLInputElement;
    this.incoming.take(input.files);
    input.value = '';
  }

  protected drop(event: DragEvent): void {
    event.preventDefault();
    if (!this.progress()) this.incoming.take(event.dataTransfer?.files);
  }

  protected key(event: KeyboardEvent): void {
    if (event.key !== '/' || event.isComposing || event.ctrlKey || event.metaKey || event.altKey) return;
    if ((event.target as HTMLElement).closest('input, textarea, .p-popover')) return;
    event.preventDefault();
    document.querySelector<HTMLElement>('#try')?.focus();
  }

  protected leaving(event: BeforeUnloadEvent): void {
    if (this.progress()) event.preventDefault();
  }

  /** Stores it. */
  protected bring(): void {
    const file = this.file();
    if (!file || !this.canBring()) return;
    const table = this.table();
    const address = table ? this.refreshing.address(table, this.look()!, this.choices(), false) : this.newAddress();
    this.own.set('');
    const rows = this.look()?.rows ?? 0;
    const method = table ? 'PUT' : 'POST';
    this.going.begin({ file, method, address, name: table?.name ?? this.name(), rows, table });
  }

  private newAddress(): string {
    const how = JSON.stringify(sentChoices(this.look()!, this.choices()));
    return `/api/tables?${new URLSearchParams({ name: this.name(), how }).toString()}`;
  }

  private brought(before: TableSummary | undefined, done: TableSummary & { change: number }): void {
    this.going.seen();
    this.incoming.file.set(undefined);
    const table = before ?? done;
    void this.router.navigate(['/table', table.id]).then(() => {
      if (!before) this.remarks.say(`${done.name} is brought in: ${plural(done.rows, 'row')}.`);
      else if (done.change === before.change)
        this.remarks.say(`${before.name} is as it was: the file changes nothing.`);
      else
        this.remarks.say(`${before.name} is refreshed.`, {
          name: 'Undo it',
          does: () =>
            void this.takingBack.undo(before.id, done.change, () => {
              this.remarks.say(`${before.name} is as it was before the refresh.`);
              // What is on show is asked anew.
              void this.router
                .navigateByUrl('/', { skipLocationChange: true })
                .then(() => this.router.navigate(['/table', before.id]));
            }),
        });
    });
  }

  /** Breaks the upload off: nothing of it is left behind. */
  protected stop(): void {
    this.going.stop();
  }

  protected leave(): void {
    // What is on its way goes on; what is only looked at is let go.
    if (!this.going.isGoing()) this.incoming.file.set(undefined);
    void this.router.navigate(['/']);
  }
}
