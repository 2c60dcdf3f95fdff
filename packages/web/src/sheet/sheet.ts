import {
  afterNextRender, ChangeDetectionStrategy, ChangeDetectorRef, Component, computed, DestroyRef, effect, ElementRef, inject, input, signal,
  viewChild,
  viewChildren,
} from '@angular/core'; // prettier-ignore
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Location } from '@angular/common';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import { debounceTime, firstValueFrom, skip } from 'rxjs';
import type { AnswerStrand, Box } from '@usual-needle/contract';
import { DEFAULT_SETTINGS, parse, type Settings } from '@usual-needle/engine';
import { Api } from '../services/api';
import { Logo } from '../look/logo';
import { RecordGrid } from './record-grid';
import { SearchBox } from './search-box';
import { messageOf, SheetStore } from './sheet-store';
import { boxAt, readAddress, writeAddress } from './address';
import { strandsOf } from './box-change';
import { NarrowBy } from './narrow-by';
import { SentenceLine } from './sentence-line';
import { NothingFound } from './nothing-found';

/** The sheet: a box over a table, and the rows that answer it. */
@Component({
  selector: 'un-sheet',
  imports: [Logo, NarrowBy, NothingFound, RecordGrid, RouterLink, SearchBox, SentenceLine],
  providers: [SheetStore],
  templateUrl: './sheet.html',
  styleUrl: './sheet.css',
  host: { '(document:keydown)': 'key($event)' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Sheet {
  private readonly api = inject(Api);
  private readonly location = inject(Location);
  private readonly title = inject(Title);
  private readonly changes = inject(ChangeDetectorRef);
  protected readonly store = inject(SheetStore);

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
    const { need, where, case: letters, accents } = this.store.box();
    return {
      need: need ?? DEFAULT_SETTINGS.need,
      where: where ?? DEFAULT_SETTINGS.where,
      case: letters ?? DEFAULT_SETTINGS.case,
      accents: accents ?? DEFAULT_SETTINGS.accents,
    };
  });
  /** Each strand with its running count, and what there is to say of its text. */
  protected readonly lines = computed(() => {
    const answer = this.store.answer();
    const current = !this.store.behind();
    let before = 0;
    return this.store.strands().map((strand, i) => {
      const { settings, store } = this;
      const columns = store.table()?.columns ?? [];
      const parsed = parse(strand.text, settings(), columns, strand.reading ?? 'words');
      const line = {
        strand,
        before,
        rows:
          i === 0 && this.store.strands().length === 1
            ? store.box().effect === 'mark in place' && answer?.asked
              ? answer.matched
              : answer?.shown
            : answer?.strands[i]?.asked
              ? answer.strands[i].leaves
              : undefined,
        tally: i > 0 && answer?.strands[i]?.asked ? tallyWords(answer.strands[i]) : '',
        problem: parsed.problem?.message ?? (current && store.problem()?.strand === i ? store.problem()!.message : ''),
        notice: parsed.notices[0]?.message ?? '',
        prompt: i > 0 ? '' : (store.box().wording?.prompt ?? 'Type a bit of what you know'),
      };
      if (strand.verb !== 'minus') before += parsed.keywords.filter(({ number }) => number > 0).length;
      return line;
    });
  });
  protected readonly prompting = computed(() => {
    const answer = this.store.answer();
    return answer !== undefined && !answer.asked && answer.shown === 0;
  });
  protected readonly name = computed(() => this.store.box().name ?? 'New box');
  protected readonly nothing = computed(() => {
    const answer = this.store.answer();
    return answer !== undefined && answer.asked && answer.shown === 0;
  });
  protected readonly status = computed(() => {
    const answer = this.store.answer();
    if (!answer) return undefined;
    const narrowed = answer.narrowed < answer.total;
    const columns = this.store.threaded().length;
    const keywords = answer.keywords.length;
    return {
      matched: `${answer.matched.toLocaleString()} of ${(narrowed ? answer.narrowed : answer.total).toLocaleString()}`,
      noun: `${answer.asked ? 'rows match' : 'rows'}${narrowed ? ` (${answer.total.toLocaleString()} in all)` : ''}`,
      searched: answer.complete ? 'every row searched' : `${answer.searched.toLocaleString()} rows searched so far`,
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

    toObservable(this.store.box)
      .pipe(skip(1), debounceTime(120), takeUntilDestroyed())
      .subscribe(() => this.keepAddress());
    // What is chosen is kept at once; what is typed, when typing pauses.
    toObservable(this.store.past)
      .pipe(skip(1), takeUntilDestroyed())
      .subscribe(() => this.keepAddress());
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
      this.store.kept.set(base);
      const box = boxAt(base, readAddress(this.location.path()));
      this.store.box.set({ ...box, threaded: (box.threaded ?? []).filter((name) => known.has(name)) });
      this.store.table.set(table);
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

  protected key(event: KeyboardEvent): void {
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

const EMPTY_BOX: Box = { format: 'usual-needle box', version: 1 };

function tallyWords({ added, removed }: AnswerStrand): string {
  return `${added > 0 ? `+${added.toLocaleString()}` : `−${removed.toLocaleString()}`}  leaves`;
}
