import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  input,
  linkedSignal,
  signal,
  untracked,
  viewChild,
  viewChildren,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import { LIMITS, type Deleted, type ShelfContent, type SourceTold, type TableSummary } from '@usual-needle/contract';
import {
  catchError,
  EMPTY,
  expand,
  map,
  type Observable,
  of,
  startWith,
  Subject,
  switchMap,
  throttleTime,
  timer,
} from 'rxjs';
import { Incoming } from '../bring-in/incoming';
import { isComposing } from '../common/composing';
import { errorWords } from '../common/error-words';
import { tooMuch } from '../common/too-much';
import { Hint } from '../look/hint';
import { Logo } from '../look/logo';
import { Pop } from '../look/pop';
import { MyAccess } from '../people/me';
import { Api } from '../services/api';
import { patiently } from '../services/latest';
import { OpenedLately } from '../services/opened-lately';
import { Remarks } from '../services/remarks';
import { LONGEST_QUERY } from '../sheet/state/long-address';
import { Band } from './band';
import { Everywhere, questionsOf } from './everywhere';
import { foundWords } from './found-words';
import { shelfEvents } from './shelf-events';

/** The time between two looks at a server that is still starting, in milliseconds. */
const AGAIN_MS = 1_000;
/** The shelf is read anew so often at most, in milliseconds, however much happens. */
const RELOAD_MS = 1_000;
/** The rest in typing, in milliseconds, after which the text goes into the address. */
const ADDRESS_MS = 400;

/** The words on what is typed, and whether they are late. */
interface FoundSaid {
  readonly whole: ReturnType<Everywhere['whole']>;
  readonly late: boolean;
}

/** The shelf as it was read, and whether the server is still starting. */
interface ShelfRead {
  readonly content: ShelfContent;
  readonly sources: readonly SourceTold[];
  readonly starting: boolean;
}

/** The shelf: a box that asks every box and table at once, and each table as a band with its boxes below. */
@Component({
  selector: 'un-shelf',
  imports: [Band, Hint, Logo, Pop, RouterLink],
  providers: [Everywhere],
  templateUrl: './shelf.html',
  styleUrl: './shelf.css',
  host: {
    '(click)': 'go($event)',
    '(document:keydown)': 'key($event)',
    '(document:paste)': 'paste($event)',
    '(document:dragover)': 'over($event)',
    '(document:dragleave)': 'dragging.set($event.relatedTarget !== null && dragging())',
    '(document:drop)': 'drop($event)',
    '(window:resize)': 'drawThread()',
  },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Shelf {
  /** The text that is looked for, as the address has it. */
  readonly q = input<string>();

  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly incoming = inject(Incoming);
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  protected readonly everywhere = inject(Everywhere);
  private readonly content = signal<ShelfContent | undefined>(undefined);
  /** Sources of tables that refresh themselves, by the tables' numbers. */
  protected readonly sources = signal<ReadonlyMap<number, SourceTold>>(new Map());
  protected readonly error = signal<string | undefined>(undefined);
  protected readonly waiting = signal(false);
  /** The server is still reading its tables. */
  protected readonly starting = signal(false);
  protected readonly dragging = signal(false);
  protected readonly isComposing = isComposing;
  protected readonly typed = signal('');
  protected readonly thread = signal<{ readonly path: string; readonly dotted: string }>({ path: '', dotted: '' });
  private readonly field = viewChild<ElementRef<HTMLInputElement>>('field');
  private readonly loads = new Subject<void>();
  private readonly remarks = inject(Remarks);
  private readonly opened = inject(OpenedLately);
  private refreshed: TableSummary | undefined;
  private addressing: ReturnType<typeof setTimeout> | undefined;
  protected readonly days = LIMITS.daysKept;
  protected readonly deleted = computed(() => this.content()?.deleted ?? []);
  protected readonly demo = computed(() => this.content()?.demo ?? null);
  private readonly asked = computed(() => {
    const content = this.content();
    return content ? questionsOf(content) : [];
  });

  protected readonly bands = computed(() => {
    const asked = this.asked();
    return this.content()?.tables.map((table) => ({ table, asked: asked.filter((one) => one.table === table) }));
  });
  protected readonly access = inject(MyAccess);
  /** True for who may bring tables in. */
  protected readonly mayBring = computed(() => this.access.me()?.everything ?? true);
  /** Boxes that are shared with whoever is signed in, on tables that are not theirs to see. */
  protected readonly shared = computed(() => this.content()?.shared ?? []);

  /** The boxes and tables opened in this browser lately that are still there, last first. */
  protected readonly lately = computed(() => {
    const { tables = [], boxes = [] } = this.content() ?? {};
    return this.opened.list().flatMap(({ of, id }) => {
      const one = (of === 'box' ? boxes : tables).find((each) => each.id === id);
      return one ? [{ name: one.name, address: `/${of}/${id}` }] : [];
    });
  });
  private readonly drawn = viewChildren(Band, { read: ElementRef });

  /** The words on what is found in all. A text that is asked anew says so only once it is late: until then it says what the bands below show. */
  private readonly said = linkedSignal<FoundSaid, FoundSaid>({
    source: () => ({ whole: this.everywhere.whole(), late: this.everywhere.late() }),
    computation: (now, before) => (now.late || !now.whole || now.whole.begun || !before ? now : before.value),
  });
  protected readonly summary = computed(() => foundWords(this.said().whole));
  protected readonly took = computed(() => {
    const { whole } = this.said();
    return whole?.complete ? ` · ${Math.max(1, Math.round(whole.milliseconds))} ms` : '';
  });

  constructor() {
    timer(150)
      .pipe(takeUntilDestroyed())
      .subscribe(() => this.waiting.set(true));
    this.loads
      .pipe(
        startWith(undefined),
        // While the server is starting it fills by itself.
        switchMap(() =>
          this.read().pipe(
            expand(({ starting }) => (starting ? timer(AGAIN_MS).pipe(switchMap(() => this.read())) : EMPTY)),
            catchError((error: unknown) => {
              this.error.set(errorWords(error));
              return EMPTY;
            }),
          ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe(({ content, sources, starting }) => {
        this.sources.set(new Map(sources.map((told) => [told.table, told])));
        this.content.set(content);
        this.starting.set(starting);
      });
    // What happens to tables while one looks is in the counts, and in what is found.
    shelfEvents()
      .pipe(throttleTime(RELOAD_MS, undefined, { leading: true, trailing: true }), takeUntilDestroyed())
      .subscribe(() => this.loads.next());
    // What the address says is typed, unless it says what is there anyway.
    effect(() => {
      const q = this.q() ?? '';
      if (q !== untracked(this.typed)) this.typed.set(q);
    });
    effect(() => this.everywhere.search(this.typed(), this.asked()));
    // The thread follows the places of bands, which change with the heights of those before them. A pale one has none below it.
    // It is drawn after them, so that it does not hold their counts up.
    let due: ReturnType<typeof setTimeout> | undefined;
    const sizes = new ResizeObserver(() => {
      clearTimeout(due);
      due = setTimeout(() => this.drawThread());
    });
    inject(DestroyRef).onDestroy(() => {
      sizes.disconnect();
      clearTimeout(due);
    });
    effect(() => {
      sizes.disconnect();
      for (const { nativeElement } of this.drawn() as readonly ElementRef<HTMLElement>[]) sizes.observe(nativeElement);
    });
  }

  /** Boxes and rows are gone to with what is typed by now. Links of the router's would each be worked out anew at every key. */
  protected go(event: MouseEvent): void {
    const link = (event.target as HTMLElement).closest('a.name, a.hit');
    const isPlain = event.button === 0 && !event.ctrlKey && !event.metaKey && !event.shiftKey && !event.altKey;
    if (!link || !isPlain) return;
    event.preventDefault();
    const [path, query] = link.getAttribute('href')!.split('?');
    const row = new URLSearchParams(query).get('row');
    const queryParams = { ...(this.typed() !== '' && { q: this.typed() }), ...(row !== null && { row }) };
    // First what was typed, so that one comes back to it.
    void this.putAddress().then(() => this.router.navigate([path], { queryParams }));
  }

  protected load(): void {
    this.error.set(undefined);
    this.loads.next();
  }

  /** The shelf, and whether the server is still starting: asked first, so that a shelf that is not whole is known to be none. */
  private read(): Observable<ShelfRead> {
    return this.api.health().pipe(
      switchMap(({ status }) =>
        this.api
          .shelf()
          .pipe(
            switchMap((content) =>
              this.sourcesOf(content).pipe(map((sources) => ({ content, sources, starting: status === 'starting' }))),
            ),
          ),
      ),
      patiently(),
    );
  }

  /** The sources of the tables that whoever is here builds. */
  private sourcesOf({ tables }: ShelfContent): Observable<readonly SourceTold[]> {
    if (tables.every(({ role }) => role === 'keeps')) return of([]);
    return this.api.sources().pipe(map(({ sources }) => sources));
  }

  protected type(text: string): void {
    const why = tooMuch(text);
    const field = this.field()?.nativeElement;
    if (why !== '') {
      if (field) field.value = this.typed();
      return this.remarks.say(why);
    }
    this.typed.set(text);
    // In this task, and not only when all is looked at again, which may wait for a frame.
    this.everywhere.search(text, this.asked());
    clearTimeout(this.addressing);
    this.addressing = setTimeout(() => void this.putAddress(), ADDRESS_MS);
  }

  /** Puts what is typed into the address; not while one is on the way to another page, which would be given up for it. */
  private async putAddress(): Promise<void> {
    clearTimeout(this.addressing);
    if (this.router.getCurrentNavigation() || !this.router.url.split('?')[0].match(/^\/?$/)) return;
    // What is too long for an address is on this page only.
    const q = this.typed() === '' || this.typed().length > LONGEST_QUERY ? null : this.typed();
    await this.router.navigate([], { queryParams: { q }, replaceUrl: true });
  }

  protected clear(): void {
    this.type('');
    this.field()?.nativeElement.focus();
  }

  protected remove(table: TableSummary): void {
    this.then(this.api.deleteTable(table.id), () => {
      const bringBack = (): void =>
        this.bringBack({ what: 'table', id: table.id, name: table.name, table: null, deletedAt: '' });
      this.remarks.say(
        `${table.name} and its boxes are deleted. They can be brought back for ${LIMITS.daysKept} days.`,
        { name: 'Bring it back', does: bringBack },
      );
    });
  }

  /** Puts the demo away for everybody here, or brings it back. */
  protected putDemo(there: boolean): void {
    this.then(this.api.demo(there), () => {
      if (there) return this.remarks.say('The demo is back.');
      this.remarks.say('The demo is put away: Found items, Stops and Claims, with their boxes.', {
        name: 'Bring it back',
        does: () => this.putDemo(true),
      });
    });
  }

  protected bringBack({ what, id, name }: Deleted): void {
    const back: Observable<unknown> = what === 'table' ? this.api.restoreTable(id) : this.api.restoreBox(id);
    this.then(back, () => this.remarks.say(`${name} is back.`));
  }

  private then(done: Observable<unknown>, say: () => void): void {
    done.subscribe({
      next: () => {
        say();
        this.load();
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  /** A file for a new table, or for newer rows of one. */
  protected bring(event: Event): void {
    const input = event.target as HTMLInputElement;
    const table = this.refreshed;
    this.refreshed = undefined;
    if (this.incoming.take(input.files)) void this.router.navigate(table ? ['/refresh', table.id] : ['/bring-in']);
    input.value = '';
  }

  protected refresh(table: TableSummary, input: HTMLInputElement): void {
    this.refreshed = table;
    input.click();
  }

  protected over(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    this.dragging.set(true);
  }

  protected drop(event: DragEvent): void {
    this.dragging.set(false);
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    if (this.mayNot()) return;
    if (this.incoming.take(event.dataTransfer.files)) void this.router.navigate(['/bring-in']);
  }

  /** Says that no table can be brought in here, where that is so. */
  private mayNot(): boolean {
    if (this.mayBring()) return false;
    this.remarks.say('Only who builds everything brings tables in here.');
    return true;
  }

  protected paste(event: ClipboardEvent): void {
    if ((event.target as HTMLElement).closest?.('input, textarea')) return;
    const data = event.clipboardData;
    if (this.mayNot()) return;
    if (this.incoming.take(data?.files) || this.incoming.takeText(data?.getData('text/plain') ?? ''))
      void this.router.navigate(['/bring-in']);
  }

  protected key(event: KeyboardEvent): void {
    if (event.isComposing || event.ctrlKey || event.metaKey || event.altKey) return;
    const target = event.target as HTMLElement;
    const field = this.field()?.nativeElement;
    if (target.closest('.p-popover, textarea') || (target.closest('input') && target !== field)) return;
    if (event.key === '/' && target !== field) {
      event.preventDefault();
      field?.focus();
    } else if (event.key === 'Escape' && target === field) {
      if (this.typed() === '') field?.blur();
      else this.clear();
    } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') this.step(event, target, field);
  }

  /** Goes from the box through boxes and rows, and back. */
  private step(event: KeyboardEvent, target: HTMLElement, field: HTMLElement | undefined): void {
    const all = [...this.element.querySelectorAll<HTMLElement>('a.hit, a.name')];
    const at = target === field ? -1 : all.indexOf(target);
    if (at < 0 && target !== field) return;
    event.preventDefault();
    const to = at + (event.key === 'ArrowDown' ? 1 : -1);
    if (to < 0) field?.focus();
    else all[Math.min(to, all.length - 1)]?.focus();
  }

  /** The line from the box down the margin to an eyelet at each table that has hits; dotted past the others. */
  protected drawThread(): void {
    const box = this.element.querySelector('.find')?.getBoundingClientRect();
    const main = this.element.querySelector('main')?.getBoundingClientRect();
    const bands = [...this.element.querySelectorAll<HTMLElement>('section.table')];
    if (!box || !main || bands.length === 0) return this.thread.set({ path: '', dotted: '' });
    const x = box.left - main.left - 38;
    const y = box.top - main.top + box.height / 2;
    const at = (band: HTMLElement): number => band.getBoundingClientRect().top - main.top + 24;
    const through = bands.filter((band) => !band.classList.contains('pale'));
    const last = through.length > 0 ? at(through[through.length - 1]) : y + 40;
    const end = at(bands[bands.length - 1]);
    const path = `M${x + 38} ${y} C${x + 12} ${y} ${x} ${y + 30} ${x} ${y + 62} V${Math.max(last, y + 62)}`;
    this.thread.set({ path, dotted: end > last ? `M${x} ${last + 6} V${end}` : '' });
  }
}
