import {
  afterNextRender, ChangeDetectionStrategy, Component, computed, DestroyRef, effect, ElementRef, inject, input, signal,
  viewChild,
} from '@angular/core'; // prettier-ignore
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Location } from '@angular/common';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import { debounceTime, firstValueFrom, skip } from 'rxjs';
import { DEFAULT_SETTINGS, type Settings } from '@usual-needle/engine';
import { Api } from '../services/api';
import { Logo } from '../look/logo';
import { RecordGrid } from './record-grid';
import { SearchBox } from './search-box';
import { sentence } from './sentence';
import { messageOf, SheetStore } from './sheet-store';
import { readAddress, writeAddress } from './address';
import { NothingFound } from './nothing-found';

/** The sheet: a box over a table, and the rows that answer it. */
@Component({
  selector: 'un-sheet',
  imports: [Logo, NothingFound, RecordGrid, RouterLink, SearchBox],
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
  protected readonly store = inject(SheetStore);

  /** From the address: a box, or a table to build one on. */
  readonly boxId = input<string>();
  readonly tableId = input<string>();

  private readonly box = viewChild(SearchBox, { read: SearchBox });
  private readonly boxElement = viewChild(SearchBox, { read: ElementRef });
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
  protected readonly phrases = computed(() => sentence(this.store.box(), this.store.table()?.columns.length ?? 0));
  protected readonly name = computed(() => this.store.box().name ?? 'New box');
  protected readonly nothing = computed(() => {
    const answer = this.store.answer();
    return answer !== undefined && answer.asked && answer.shown === 0;
  });
  protected readonly status = computed(() => {
    const answer = this.store.answer();
    if (!answer) return undefined;
    const columns = this.store.threaded().length;
    const keywords = answer.keywords.length;
    return {
      matched: `${answer.matched.toLocaleString()} of ${answer.total.toLocaleString()}`,
      noun: answer.asked ? 'rows match' : 'rows',
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

    toObservable(computed(() => ({ text: this.store.text(), threaded: this.store.threaded() })))
      .pipe(skip(1), debounceTime(120), takeUntilDestroyed())
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
      destroyed.onDestroy(() => observer.disconnect());
    });
  }

  private boxDefault: readonly string[] = [];

  private async open(boxId: string | undefined, tableId: string | undefined): Promise<void> {
    try {
      const kept = boxId === undefined ? undefined : await firstValueFrom(this.api.box(Number(boxId)));
      const table = await firstValueFrom(this.api.table(kept?.tableId ?? Number(tableId)));
      const textual = table.columns.filter(({ kind }) => kind === 'text' || kind === 'choice').map(({ name }) => name);
      this.boxDefault = kept?.box.threaded ?? textual;
      const { text, threaded } = readAddress(this.location.path());
      const known = threaded?.filter((name) => table.columns.some((column) => column.name === name));
      const firstStrand = kept?.box.strands?.[0]?.text ?? '';
      this.store.box.set({
        format: 'usual-needle box',
        version: 1,
        ...kept?.box,
        threaded: [...(known ?? this.boxDefault)],
      });
      this.store.text.set(text ?? firstStrand);
      this.store.table.set(table);
      setTimeout(() => this.box()?.focus());
    } catch (error) {
      this.failed.set(
        (error as { status?: number }).status === 404 ? 'This box is no longer there.' : messageOf(error),
      );
    }
  }

  private keepAddress(): void {
    if (!this.store.table()) return;
    const path = this.location.path().split('?')[0];
    const threaded = this.store.threaded();
    const own = threaded.join('\n') === this.boxDefault.join('\n') ? undefined : threaded;
    this.location.replaceState(path, writeAddress({ text: this.store.text(), threaded: own }));
  }

  /** The thread leaves the box, runs down the margin, and enters the header. */
  protected drawThread(): void {
    const from = (this.boxElement()?.nativeElement as HTMLElement | undefined)?.getBoundingClientRect();
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
    this.box()?.focus();
  }

  protected key(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (event.key === '/' && !/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      this.box()?.focus();
    }
  }
}
