import {
  afterNextRender, ChangeDetectionStrategy, ChangeDetectorRef, Component, computed, DestroyRef, effect, ElementRef, inject, input, signal,
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
import { SheetStore } from './sheet-store';
import { boxAt, readAddress, writeAddress } from './address';
import { EMPTY_BOX, strandsOf } from './box-change';
import { NarrowBy } from './narrow-by';
import { SentenceLine } from './sentence-line';
import { NothingFound } from './nothing-found';

/** The sheet: a box over a table, and the rows that answer it. */
@Component({
  selector: 'un-sheet',
  imports: [Logo, NarrowBy, NothingFound, RecordGrid, RouterLink, SearchBox, SentenceLine],
  providers: [SheetStore, Answers],
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

  /** From the address: a box, or a table to build one on. */
  readonly boxId = input<string>();
  readonly tableId = input<string>();

  private readonly boxes = viewChildren(SearchBox);
  private readonly boxElement = viewChild<ElementRef<HTMLElement>>('box');
  private readonly grid = viewChild(RecordGrid);
  private readonly gridElement = viewChild(RecordGrid, { read: ElementRef });

  protected readonly failed = signal<string | undefined>(undefined);
  protected readonly thread = signal('');
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
        : '',
    };
  });
  /** What a screen reader is told, once typing pauses. */
  protected readonly said = signal('');

  constructor() {
    effect(() => void this.open(this.boxId(), this.tableId()));
    effect(() => this.title.setTitle(`${this.name()} · Usual Needle`));
    const destroyed = inject(DestroyRef);

    // What is chosen is kept at once; what is typed, when typing pauses.
    this.store.changes
      .pipe(
        skip(1),
        debounce((change) => (change === 'typed' ? timer(120) : of(0))),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.keepAddress());
    // By hand: a listener of the template would have everything looked through at each key.
    const key = (event: KeyboardEvent): void => this.key(event);
    document.addEventListener('keydown', key);
    destroyed.onDestroy(() => document.removeEventListener('keydown', key));
    const leaving = (): void => this.keepAddress();
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
    try {
      const kept = boxId === undefined ? undefined : await firstValueFrom(this.api.box(Number(boxId)));
      const table = await firstValueFrom(this.api.table(kept?.tableId ?? Number(tableId)));
      const textual = table.columns.filter(({ kind }) => kind === 'text' || kind === 'choice').map(({ name }) => name);
      const known = new Set(table.columns.map(({ name }) => name));
      const own: Box = { threaded: textual, ...EMPTY_BOX, ...kept?.box };
      const threaded = (own.threaded ?? textual).filter((name) => known.has(name));
      const base: Box = { ...own, threaded, strands: [...strandsOf(own)] };
      const box = boxAt(base, readAddress(this.location.path()));
      this.store.open(table, base, { ...box, threaded: (box.threaded ?? []).filter((name) => known.has(name)) });
      setTimeout(() => this.toBox());
    } catch (error) {
      this.failed.set(
        (error as { status?: number }).status === 404 ? 'This box is no longer there.' : messageOf(error),
      );
    }
  }

  private keepAddress(): void {
    if (!this.store.table()) return;
    const path = this.location.path().split('?')[0];
    this.location.replaceState(path, writeAddress(this.store.box(), this.store.kept()));
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

  private key(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    const typing = /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName);
    const does = (work: () => void): void => {
      event.preventDefault();
      work();
    };
    if (event.altKey && event.key === 'ArrowDown') does(() => this.addStrand());
    else if (event.altKey && event.code === 'KeyF') does(() => this.store.update({ flip: !this.store.box().flip }));
    else if (event.key === 'Enter' && (target.closest('un-search-box') || target.closest('un-record-grid .scroller'))) {
      if (target.tagName !== 'BUTTON' && target.tagName !== 'SELECT')
        does(() => this.grid()?.goToMatch(event.shiftKey));
    } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing) {
      does(() => (event.shiftKey ? this.store.redo() : this.store.undo()));
    } else if (event.key === '/' && !typing && !event.ctrlKey && !event.metaKey)
      does(() => this.boxes()[0]?.focusAll());
  }
}

function tallyWords({ added, removed }: AnswerStrand): string {
  return `${added > 0 ? `+${counted(added)}` : `−${counted(removed)}`}  leaves`;
}
