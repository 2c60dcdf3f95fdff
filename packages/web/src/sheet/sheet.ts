import {
  afterNextRender,
  ApplicationRef,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  Injector,
  input,
  signal,
  viewChild,
  viewChildren,
} from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import type { TakenAway } from '@usual-needle/contract';
import { catchError, debounceTime, filter, of, switchMap, take } from 'rxjs';
import { Hint } from '../look/hint';
import { Logo } from '../look/logo';
import { Remarks } from '../services/remarks';
import { lateWords } from '../sources/source-words';
import { TAKEN_AWAY } from '../take-away/taken-away';
import { BoxMenu } from './box/box-menu';
import { BoxNewsLine } from './box/box-news';
import { Lines } from './box/lines';
import { SearchBox } from './box/search-box';
import { SentenceLine } from './box/sentence-line';
import { StrandChoices } from './box/strand-choices';
import { CribPanel } from './crib/crib-panel';
import { ColumnMenu } from './grid/column-menu';
import { RecordGrid } from './grid/record-grid';
import { threadPath } from './grid/thread-path';
import { Selection } from './grid/selection';
import { CellsGone } from './keep/cells-gone';
import { ClashPanel } from './keep/clash-panel';
import { type Clashing, Edits } from './keep/edits';
import { HistoryDrawer } from './keep/history-drawer';
import { KeepStatus } from './keep/keep-status';
import { Keeper } from './keep/keeper';
import { SelectedCells } from './keep/selected-cells';
import { Undoing } from './keep/undoing';
import { KeysPanel } from './keys/keys-panel';
import { sheetKey } from './keys/sheet-keys';
import { LenderTables } from './borrow/lender-tables';
import { Following } from './live/following';
import { Earlier } from './keep/earlier';
import { Here } from './live/here';
import { Live } from './live/live';
import { NarrowBy } from './narrowing/narrow-by';
import { NothingFound } from './nothing-found/nothing-found';
import { Peek } from './peek/peek';
import { ChartPanel } from './chart/chart-panel';
import { TakeOutPanel } from './take-out/take-out-panel';
import { TakingOut } from './take-out/taking-out';
import { Answers } from './state/answers';
import { History } from './state/history';
import { BoxSaving } from './state/box-saving';
import { Opening } from './state/opening';
import { SheetStore } from './state/sheet-store';
import { Status } from './state/status';

/** A screen reader is told how many rows match once typing has paused so long, in milliseconds. */
const SAID_MS = 700;

/** The sheet: a box over a table, and the rows that answer it. It only puts its rooms together. */
@Component({
  selector: 'un-sheet',
  imports: [
    BoxMenu,
    BoxNewsLine,
    ClashPanel,
    ColumnMenu,
    Earlier,
    Here,
    Hint,
    HistoryDrawer,
    KeysPanel,
    Logo,
    NarrowBy,
    NothingFound,
    Peek,
    RecordGrid,
    RouterLink,
    SearchBox,
    SentenceLine,
    ChartPanel,
    CribPanel,
    StrandChoices,
    TakeOutPanel,
  ],
  providers: [
    SheetStore,
    Answers,
    BoxSaving,
    History,
    Opening,
    Lines,
    Status,
    KeepStatus,
    Selection,
    CellsGone,
    Live,
    Edits,
    Keeper,
    SelectedCells,
    Undoing,
    Following,
    LenderTables,
    TakingOut,
  ],
  templateUrl: './sheet.html',
  styleUrl: './sheet.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Sheet {
  private readonly app = inject(ApplicationRef);
  private readonly injector = inject(Injector);
  private readonly destroyed = inject(DestroyRef);
  protected readonly store = inject(SheetStore);
  protected readonly answers = inject(Answers);
  protected readonly opening = inject(Opening);
  protected readonly lines = inject(Lines);
  protected readonly status = inject(Status);
  protected readonly kept = inject(KeepStatus);
  /** The words on rows that are older than they should be. */
  protected readonly late = computed(() => {
    const since = this.store.table()?.lateSince;
    return since === undefined ? '' : lateWords(since);
  });
  private readonly remarks = inject(Remarks);
  protected readonly edits = inject(Edits);
  protected readonly keeper = inject(Keeper);
  protected readonly selection = inject(Selection);
  protected readonly following = inject(Following);
  private readonly undoing = inject(Undoing);
  /** The moment that the rows are of, on a page that was taken away. */
  protected readonly takenAway = momentOf(inject(TAKEN_AWAY));

  /** The box of the address; without it a table to build one on. */
  readonly boxId = input<string>();
  readonly tableId = input<string>();
  /** Number of the change after which the table is looked at. */
  readonly then = input<string>();
  /** The slug of a box that is shared, for its readers. */
  readonly slug = input<string>();
  /** True for the box as its readers have it. */
  readonly reader = input(false);

  /** Id of a row that is to be gone to, and opened beside the others. */
  readonly row = input<string>();

  private readonly boxes = viewChildren(SearchBox);
  private readonly boxElement = viewChild<ElementRef<HTMLElement>>('box');
  private readonly grid = viewChild(RecordGrid);
  private readonly gridElement = viewChild(RecordGrid, { read: ElementRef<HTMLElement> });
  private readonly keys = viewChild.required(KeysPanel);
  private readonly teller = viewChild<ElementRef<HTMLElement>>('teller');
  private readonly charter = viewChild<ElementRef<HTMLElement>>('charter');
  private readonly taker = viewChild<ElementRef<HTMLElement>>('taker');
  private readonly choices = viewChild.required(StrandChoices);
  private readonly crib = viewChild.required(CribPanel);
  protected readonly narrower = viewChild(NarrowBy);

  protected readonly thread = signal('');
  protected readonly charting = signal(false);
  protected readonly telling = signal(false);
  protected readonly taking = signal(false);
  protected readonly leaving = inject(TakingOut);
  /** Clashes that were put off; the first other one is shown. */
  private readonly later = signal<readonly Clashing[]>([]);
  protected readonly clash = computed(() => this.edits.clashing().find((one) => !this.later().includes(one)));
  private readonly peeking = signal(false);
  /** Place in the list of the record beside the grid. */
  protected readonly peeked = computed(() => (this.peeking() ? this.selection.at() : undefined));
  protected readonly name = computed(() =>
    this.opening.failed() && !this.store.table() ? 'Nothing here' : (this.store.definition().name ?? 'New box'),
  );
  /** The words for a screen reader, told once typing pauses; and at once, what a key has led to. */
  protected readonly said = signal('');
  protected readonly reached = signal('');

  constructor() {
    effect(() => {
      const reader = this.reader();
      void this.opening.open(this.boxId(), this.tableId(), reader, this.then(), this.slug()).then((opened) => {
        if (!opened) return;
        this.peeking.set(false);
        this.telling.set(false);
        this.taking.set(false);
        setTimeout(() => this.toBox());
        if (this.row() !== undefined) this.toRow(Number(this.row()));
      });
    });
    const title = inject(Title);
    effect(() => title.setTitle(`${this.name()} · Usual Needle`));
    const destroyed = inject(DestroyRef);
    // By hand: a listener of the template would have everything looked through at each key.
    const key = (event: KeyboardEvent): void => sheetKey(event, this.actions);
    document.addEventListener('keydown', key);
    destroyed.onDestroy(() => document.removeEventListener('keydown', key));
    toObservable(computed(() => (this.lines.notice().problem ? this.lines.notice().text : this.status.said())))
      .pipe(debounceTime(SAID_MS), takeUntilDestroyed())
      .subscribe((said) => this.said.set(said));
    afterNextRender(() => {
      const observer = new ResizeObserver(() => this.drawThread());
      observer.observe(document.body);
      const box = this.boxElement();
      if (box) observer.observe(box.nativeElement);
      destroyed.onDestroy(() => observer.disconnect());
    });
  }

  /** The record that the address names, once the rows are there: it is opened beside them. */
  private toRow(id: number): void {
    toObservable(this.answers.answer, { injector: this.injector })
      .pipe(
        filter((answer) => answer !== undefined && answer.complete),
        take(1),
        switchMap(() => this.answers.placeOf(id)),
        catchError(() => of(null)),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe((place) => {
        if (place === null) return this.remarks.say('The row that this address leads to does not match any more.');
        this.grid()?.moveTo(place);
        this.peeking.set(true);
      });
  }

  private readonly actions = {
    addStrand: () => this.addStrand(),
    flip: () => this.flip(),
    enter: (backwards: boolean) => this.enter(backwards),
    undo: () => this.undoing.undo(),
    redo: () => this.undoing.redo(),
    unpeek: () =>
      (this.peeking() && this.unpeek()) ||
      (this.telling() && this.untell()) ||
      (this.taking() && this.untake()) ||
      (this.charting() && this.unchart()),
    keys: () => this.keys().open(),
    toBox: () => this.boxes()[0]?.focusAll(),
    building: () => !this.store.readersView(),
  };

  /** The thread leaves the box, runs down the margin, and enters the header. */
  protected drawThread(): void {
    const from = this.boxElement()?.nativeElement.getBoundingClientRect();
    const to = (this.gridElement()?.nativeElement as HTMLElement | undefined)?.getBoundingClientRect();
    if (from && to) this.thread.set(threadPath(from, to));
  }

  protected readonly textNow = (strand: number): string => this.store.strands()[strand]?.text ?? '';

  protected peek(): void {
    if (this.peeking()) this.unpeek();
    else {
      this.peeking.set(this.selection.at() !== undefined);
      this.telling.set(false);
      this.taking.set(false);
    }
  }

  /** Opens or closes what takes rows out, in the place of the record. */
  protected take(): void {
    this.taking.update((taking) => !taking);
    this.peeking.set(false);
    this.telling.set(false);
  }

  protected untake(): true {
    this.taking.set(false);
    this.taker()?.nativeElement.focus();
    return true;
  }

  /** The history, in the place of the record. */
  protected tell(): void {
    this.telling.update((telling) => !telling);
    this.peeking.set(false);
    this.taking.set(false);
  }

  protected untell(): true {
    this.telling.set(false);
    this.teller()?.nativeElement.focus();
    return true;
  }

  /** Clashes that were put off are shown again. */
  protected readonly showClashes = (): void => this.later.set([]);

  protected putOff(clash: Clashing): void {
    this.later.update((later) => [...later, clash]);
    this.toRows();
  }

  protected unpeek(): true {
    this.peeking.set(false);
    this.toRows();
    return true;
  }

  protected step(by: 1 | -1): void {
    const grid = this.grid();
    grid?.moveTo((this.selection.at() ?? 0) + by);
  }

  protected unchart(): true {
    this.charting.set(false);
    this.charter()?.nativeElement.focus();
    return true;
  }

  protected toRows(): void {
    this.grid()?.focus();
  }

  protected ask(strand: number, { of, event }: { of: 'verb' | 'reading' | 'crib'; event: Event }): void {
    if (of === 'crib') this.crib().open(strand, event);
    else this.choices().open(strand, of, event);
  }

  protected toStrand(at: number): void {
    this.boxes()[at]?.focus();
  }

  protected toBox(): void {
    this.boxes()[0]?.focus();
  }

  protected addStrand(): void {
    if (!this.store.addStrand()) {
      this.remarks.say('There can be 16 strands.');
      return;
    }
    // Drawn at once, what is done after a drawing too: so the next key already goes into it, and is heard.
    this.app.tick();
    this.boxes().at(-1)?.focus();
  }

  private flip(): void {
    const answer = this.answers.answer();
    const { flip = false } = this.store.box();
    // An answer that is still of what was typed before says nothing of the others.
    if (!flip && answer && !this.answers.behind() && answer.narrowed === answer.shown)
      this.reached.set('No others to flip to.');
    else if (this.store.may('flip')) this.store.update({ flip: !flip });
  }

  /** Searches first, if that was waited for; else goes on to the next match. */
  private enter(backwards: boolean): void {
    if (this.lines.waits()) this.answers.askNow();
    else this.grid()?.goToMatch(backwards);
  }
}

function momentOf(taken: TakenAway | undefined): string {
  if (!taken) return '';
  const at = new Date(taken.at).toLocaleString('en-GB', { dateStyle: 'long', timeStyle: 'short' });
  return `These are the rows of ${at}${taken.who === undefined ? '' : `, taken out by ${taken.who}`}. They are in this page, and nothing leaves it.`;
}
