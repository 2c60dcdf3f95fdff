import {
  afterNextRender, ChangeDetectionStrategy, ChangeDetectorRef, Component, computed, DestroyRef, effect, ElementRef, inject, input, signal, untracked,
  viewChild,
  viewChildren,
} from '@angular/core'; // prettier-ignore
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Location } from '@angular/common';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import { debounce, debounceTime, firstValueFrom, of, skip, timer } from 'rxjs';
import type { AnswerStrand, Box, MarkTuple } from '@usual-needle/contract';
import { DEFAULT_SETTINGS, parse, type Settings } from '@usual-needle/engine';
import { counted } from '../services/numbers';
import { Api } from '../services/api';
import { Logo } from '../look/logo';
import { RecordGrid } from './record-grid';
import { SearchBox } from './search-box';
import { Answers, messageOf } from './answers';
import { cellParts } from './cell-parts';
import { type BoxChange, SheetStore } from './sheet-store';
import { boxAt, readAddress, writeAddress } from './address';
import { EMPTY_BOX, strandsOf } from './box-change';
import { BoxMenu } from './box-menu';
import { ColumnMenu } from './column-menu';
import { Keeping } from './keeping';
import { KeysPanel } from './keys-panel';
import { NarrowBy } from './narrow-by';
import { Peek } from './peek';
import { Spread } from './spread';
import { SentenceLine } from './sentence-line';
import { NothingFound } from './nothing-found';

/** A text typed on within this time is one entry of the browser's history, in milliseconds. */
const SAME_TEXT_MS = 1_500;

/** The sheet: a box over a table, and the rows that answer it. */
@Component({
  selector: 'un-sheet',
  imports: [
    BoxMenu,
    ColumnMenu,
    KeysPanel,
    Logo,
    NarrowBy,
    NothingFound,
    Peek,
    RecordGrid,
    RouterLink,
    SearchBox,
    SentenceLine,
    Spread,
  ],
  providers: [SheetStore, Answers, Keeping],
  templateUrl: './sheet.html',
  styleUrl: './sheet.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Sheet {
  private readonly api = inject(Api);
  private readonly location = inject(Location);
  private readonly title = inject(Title);
  private readonly changes = inject(ChangeDetectorRef);
  protected readonly store = inject(SheetStore);
  protected readonly answers = inject(Answers);
  private readonly keeping = inject(Keeping);

  /** From the address: a box, or a table to build one on. */
  readonly boxId = input<string>();
  readonly tableId = input<string>();
  /** True for the box as its readers have it. */
  readonly reader = input(false);

  private readonly boxes = viewChildren(SearchBox);
  private readonly boxElement = viewChild<ElementRef<HTMLElement>>('box');
  private readonly grid = viewChild(RecordGrid);
  private readonly gridElement = viewChild(RecordGrid, { read: ElementRef });

  protected readonly failed = signal<string | undefined>(undefined);
  protected readonly thread = signal('');
  protected readonly spreading = signal(false);
  private readonly peeking = signal(false);
  private readonly keys = viewChild.required(KeysPanel);
  /** Place in the list of the record beside the grid. */
  protected readonly peeked = computed(() => (this.peeking() ? this.grid()?.at() : undefined));
  protected readonly onEnter = computed(() => this.store.definition().searches === 'on Enter');
  protected readonly answered = computed(() => this.answers.answered().trim() || 'nothing typed');
  protected readonly settings = computed<Settings>(() => {
    const { need, where, case: letters, accents } = this.store.definition();
    return {
      need: need ?? DEFAULT_SETTINGS.need,
      where: where ?? DEFAULT_SETTINGS.where,
      case: letters ?? DEFAULT_SETTINGS.case,
      accents: accents ?? DEFAULT_SETTINGS.accents,
    };
  });
  /** Each strand as the engine reads it, cut at its keywords. */
  private readonly read = computed(() => {
    const columns = this.store.table()?.columns ?? [];
    let before = 0;
    return this.answers.strands().map((strand) => {
      const { text, verb, reading = 'words' } = strand;
      const { keywords, problem, notices } = parse(text, this.settings(), columns, reading);
      const drawn = verb === 'minus' ? [] : keywords.filter(({ number }) => number > 0);
      const marks = drawn.map(({ number, start, end }): MarkTuple => [0, start, end, before + number]);
      before += drawn.length;
      return {
        strand,
        parts: cellParts(text, marks),
        problem: problem?.message ?? '',
        notice: notices[0]?.message ?? '',
      };
    });
  });
  /** Each strand with its running count, and what there is to say of its text. */
  protected readonly lines = computed(() => {
    const answer = this.answers.answer();
    const marking = this.store.definition().effect === 'mark in place' && answer?.asked;
    const said = this.answers.behind() ? undefined : this.answers.problem();
    const read = this.read();
    return read.map((line, i) => {
      const tally = answer?.strands[i];
      const alone = marking ? answer.matched : answer?.shown;
      return {
        ...line,
        rows: read.length === 1 ? alone : tally?.asked ? tally.leaves : undefined,
        tally: i > 0 && tally?.asked ? tallyWords(tally) : '',
        problem: line.problem || (said?.strand === i ? said.message : ''),
        prompt: i > 0 ? '' : (this.store.definition().wording?.prompt ?? 'Type a bit of what you know'),
        examples: i > 0 ? [] : (this.store.definition().wording?.examples ?? []),
        movable: i > 0 && read.length > 2,
        waits: this.onEnter() && this.answers.behind(),
      };
    });
  });
  protected readonly prompting = computed(() => {
    const answer = this.answers.answer();
    return answer !== undefined && !answer.asked && answer.shown === 0;
  });
  protected readonly name = computed(() => this.store.definition().name ?? 'New box');
  protected readonly nothing = computed(() => {
    const answer = this.answers.answer();
    return answer !== undefined && answer.asked && answer.shown === 0;
  });
  protected readonly status = computed(() => {
    const answer = this.answers.answer();
    if (!answer) return undefined;
    const narrowed = answer.narrowed < answer.total;
    const columns = this.store.threaded().length;
    const keywords = answer.keywords.length;
    return {
      matched: `${counted(answer.matched)} of ${counted(narrowed ? answer.narrowed : answer.total)}`,
      noun: `${answer.asked ? 'rows match' : 'rows'}${narrowed ? ` (${counted(answer.total)} in all)` : ''}`,
      searched: answer.complete ? 'every row searched' : `${counted(answer.searched)} rows searched so far`,
      milliseconds: `${Math.max(1, Math.round(answer.milliseconds))} ms`,
      asked: answer.asked
        ? `${keywords} ${keywords === 1 ? 'keyword' : 'keywords'} in ${columns} ${columns === 1 ? 'column' : 'columns'}`
        : (this.store.definition().wording?.help ?? ''),
    };
  });
  /** What a screen reader is told, once typing pauses. */
  protected readonly said = signal('');

  constructor() {
    effect(() => {
      this.reader();
      void this.open(this.boxId(), this.tableId());
    });
    // What was just kept need not be in the address any more.
    effect(() => {
      this.store.kept();
      untracked(() => this.rewriteAddress());
    });
    effect(() => this.title.setTitle(`${this.name()} · Usual Needle`));
    const destroyed = inject(DestroyRef);

    // What is chosen goes into the address at once; what is typed, when typing pauses.
    this.store.changes
      .pipe(
        skip(1),
        debounce((change) => (change === 'typed' ? timer(120) : of(0))),
        takeUntilDestroyed(),
      )
      .subscribe((change) => this.keepAddress(change));
    const walked = this.location.subscribe(() => this.walk());
    destroyed.onDestroy(() => walked.unsubscribe());
    // By hand: a listener of the template would have everything looked through at each key.
    const key = (event: KeyboardEvent): void => this.key(event);
    document.addEventListener('keydown', key);
    destroyed.onDestroy(() => document.removeEventListener('keydown', key));
    const leaving = (): void => this.keepAddress('typed');
    window.addEventListener('pagehide', leaving);
    destroyed.onDestroy(() => window.removeEventListener('pagehide', leaving));

    toObservable(this.status)
      .pipe(debounceTime(700), takeUntilDestroyed())
      .subscribe((status) => this.said.set(status ? `${status.matched} ${status.noun}` : ''));

    afterNextRender(() => {
      const observer = new ResizeObserver(() => this.drawThread());
      observer.observe(document.body);
      const box = this.boxElement();
      if (box) observer.observe(box.nativeElement);
      destroyed.onDestroy(() => observer.disconnect());
    });
  }

  private async open(boxId: string | undefined, tableId: string | undefined): Promise<void> {
    this.failed.set(undefined);
    this.peeking.set(false);
    try {
      const kept = boxId === undefined ? undefined : await firstValueFrom(this.api.box(Number(boxId)));
      const table = await firstValueFrom(this.api.table(kept?.tableId ?? Number(tableId)));
      const textual = table.columns.filter(({ kind }) => kind === 'text' || kind === 'choice').map(({ name }) => name);
      const known = new Set(table.columns.map(({ name }) => name));
      const own: Box = { threaded: textual, ...EMPTY_BOX, ...kept?.box };
      const threaded = (own.threaded ?? textual).filter((name) => known.has(name));
      const base: Box = { ...own, threaded, strands: [...strandsOf(own)] };
      const box = boxAt(base, readAddress(this.location.path()));
      this.keeping.stored.set(kept);
      this.store.reading.set(this.reader());
      this.store.open(table, base, { ...box, threaded: (box.threaded ?? []).filter((name) => known.has(name)) });
      setTimeout(() => this.toBox());
    } catch (error) {
      this.failed.set(
        (error as { status?: number }).status === 404 ? 'This box is no longer there.' : messageOf(error),
      );
    }
  }

  /** When the last entry of the browser's history was made, if it is still being typed. */
  private typingSince = 0;

  /** A choice is an entry of its own in the browser's history; so is each text, once it has been left for a moment. */
  private keepAddress(change: BoxChange): void {
    if (!this.store.table() || this.walking) return;
    const path = this.location.path().split('?')[0];
    const query = writeAddress(this.store.box(), this.store.kept());
    if (this.location.isCurrentPathEqualTo(path, query)) return;
    const now = Date.now();
    const goesOn = change === 'typed' && now - this.typingSince < SAME_TEXT_MS;
    this.typingSince = change === 'typed' ? now : 0;
    if (goesOn) this.location.replaceState(path, query);
    else this.location.go(path, query);
  }

  private rewriteAddress(): void {
    if (!this.store.table()) return;
    const path = this.location.path().split('?')[0];
    this.location.replaceState(path, writeAddress(this.store.box(), this.store.kept()));
  }

  private walking = false;

  /** Back and Forward: the box as the address has it. */
  private walk(): void {
    if (!this.store.table()) return;
    this.walking = true;
    this.typingSince = 0;
    this.store.goTo(boxAt(this.store.kept(), readAddress(this.location.path())));
    this.walking = false;
  }

  /** The thread leaves the box, runs down the margin, and enters the header. */
  protected drawThread(): void {
    const from = this.boxElement()?.nativeElement.getBoundingClientRect();
    const to = (this.gridElement()?.nativeElement as HTMLElement | undefined)?.getBoundingClientRect();
    if (!from || !to) return;
    const [x, y, endX, endY] = [from.left, from.top + 25, to.left + 22, to.top + 45];
    const margin = Math.max(3, to.left - 9);
    const drop = endY - y;
    this.thread.set(
      `M${x} ${y} C${x - 30} ${y} ${margin} ${y + drop * 0.2} ${margin} ${y + drop * 0.5} ` +
        `C${margin} ${y + drop * 0.85} ${to.left} ${endY} ${endX} ${endY}`,
    );
  }

  protected readonly textNow = (strand: number): string => this.store.strands()[strand]?.text ?? '';

  protected peek(): void {
    this.peeking.set(!this.peeking() && this.grid()?.at() !== undefined);
  }

  protected unpeek(): void {
    this.peeking.set(false);
    this.toRows();
  }

  protected step(by: 1 | -1): void {
    const grid = this.grid();
    grid?.moveTo((grid.at() ?? 0) + by);
  }

  protected toRows(): void {
    this.grid()?.focus();
  }

  protected toBox(): void {
    this.boxes()[0]?.focus();
  }

  protected addStrand(): void {
    this.store.addStrand();
    // Drawn at once, so that the next key already goes into it.
    this.changes.detectChanges();
    this.boxes().at(-1)?.focus();
  }

  /** Searches first, if that was waited for; else goes on to the next match. */
  private enter(backwards: boolean): void {
    if (this.onEnter() && this.answers.behind()) this.answers.askNow();
    else this.grid()?.goToMatch(backwards);
  }

  private key(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    const typing = /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName);
    const does = (work: () => void): void => {
      event.preventDefault();
      work();
    };
    if (event.altKey && event.key === 'ArrowDown' && !this.store.reading()) does(() => this.addStrand());
    else if (event.altKey && event.code === 'KeyF') does(() => this.store.update({ flip: !this.store.box().flip }));
    else if (event.key === 'Enter' && (target.closest('un-search-box') || target.closest('un-record-grid .scroller'))) {
      if (target.tagName !== 'BUTTON' && target.tagName !== 'SELECT') does(() => this.enter(event.shiftKey));
    } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing) {
      does(() => (event.shiftKey ? this.store.redo() : this.store.undo()));
    } else if (event.key === 'Escape' && this.peeking() && !typing) does(() => this.unpeek());
    else if (event.key === '?' && !typing) does(() => this.keys().open());
    else if (event.key === '/' && !typing && !event.ctrlKey && !event.metaKey) does(() => this.boxes()[0]?.focusAll());
  }
}

function tallyWords({ added, removed }: AnswerStrand): string {
  return `${added > 0 ? `+${counted(added)}` : `−${counted(removed)}`}  leaves`;
}
