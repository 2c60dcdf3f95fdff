import { ChangeDetectionStrategy, Component, computed, inject, input, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import type {
  Refresh,
  Rhythm,
  Source,
  SourceFrom,
  SourceSecret,
  SourceTold,
  TableSummary,
} from '@usual-needle/contract';
import { InputText } from 'primeng/inputtext';
import { catchError, EMPTY, forkJoin, type Observable, switchMap } from 'rxjs';
import { RefreshRows } from '../bring-in/refresh-rows';
import { errorWords } from '../common/error-words';
import { Choose, type Option } from '../look/choose';
import { Logo } from '../look/logo';
import { Pop } from '../look/pop';
import { Tick } from '../look/tick';
import { Api } from '../services/api';
import { counted, rowsCounted } from '../services/numbers';
import { Remarks } from '../services/remarks';
import { countsWords, DAYS, momentWords, type SourcePart, sourceSentence, zoneHere } from './source-words';

type Way = 'address' | 'query' | 'file';
type Every = Rhythm['every'];

const WAYS: readonly { readonly is: Way; readonly words: string; readonly field: string }[] = [
  { is: 'address', words: 'an address', field: 'The address' },
  { is: 'query', words: 'a query on a database', field: 'The query' },
  { is: 'file', words: 'a file in the in-tray', field: 'Its name; * stands for any letters' },
];
const RHYTHMS: readonly { readonly is: Every; readonly words: string }[] = [
  { is: 'change', words: 'when it changes' },
  { is: 'minutes', words: 'every so many minutes' },
  { is: 'hours', words: 'every so many hours' },
  { is: 'day', words: 'every day' },
  { is: 'week', words: 'every week' },
];
const NIGHTLY = '02:00';
const KEYS = /\b(?:no|nr|id|number|code|key)\b/i;

/** Reads a form that is sent, field by field. */
function saidIn(event: Event): (field: string) => string {
  event.preventDefault();
  const data = new FormData(event.target as HTMLFormElement);
  return (field) => {
    const value = data.get(field);
    return typeof value === 'string' ? value : '';
  };
}

/** Where a table takes newer rows from by itself: one sentence, tried before it is kept. */
@Component({
  selector: 'un-source-page',
  imports: [Choose, InputText, Logo, Pop, RefreshRows, RouterLink, Tick],
  templateUrl: './source-page.html',
  styleUrls: ['../bring-in/bring-in.css', './source-page.css'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SourcePage {
  readonly tableId = input.required<string>();
  /** Whether what it waits for is to be looked at at once. */
  readonly look = input<string>();

  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly remarks = inject(Remarks);
  private readonly pop = viewChild.required(Pop);

  protected readonly table = signal<TableSummary | undefined>(undefined);
  protected readonly kept = signal<SourceTold | undefined>(undefined);
  protected readonly missing = signal('');
  protected readonly problem = signal('');
  protected readonly busy = signal(false);
  protected readonly plan = signal<Refresh | undefined>(undefined);
  protected readonly source = signal<Source>({
    from: { address: '', signIn: 'none' },
    rhythm: { every: 'day', at: NIGHTLY, zone: zoneHere() },
    ...{ key: [], gone: 'keep', most: 5 },
  });
  private readonly secret = signal<SourceSecret | undefined>(undefined);
  /** The source that was tried, as it was then. */
  private readonly tried = signal('');
  protected readonly setting = signal<SourcePart>('from');

  protected readonly connections = signal<readonly Option[]>([]);
  private readonly hasInTray = signal(false);
  protected readonly ways = computed(() =>
    WAYS.filter(
      ({ is }) =>
        is === 'address' ||
        is === this.wayOf(this.source().from) ||
        (is === 'query' ? this.connections().length > 0 : this.hasInTray()),
    ),
  );
  protected readonly rhythms = computed(() =>
    RHYTHMS.filter(({ is }) => is !== 'change' || !('query' in this.source().from)),
  );
  protected readonly columns = computed(() => (this.table()?.columns ?? []).filter(({ borrows }) => !borrows));
  protected readonly days = DAYS.map((name, i): Option => ({ name, value: String(i + 1) }));
  protected readonly gone = [
    { is: 'keep', words: 'stay' },
    { is: 'remove', words: 'go' },
  ] as const;
  protected readonly signIns: readonly Option[] = [
    { name: 'without a secret', value: 'none' },
    { name: 'with a name and a password', value: 'password' },
    { name: 'with a token', value: 'token' },
  ];

  // What the open panel has before it is said.
  protected readonly draftWay = signal<Way>('address');
  protected readonly connection = signal('');
  protected readonly signIn = signal('none');
  protected readonly draftEvery = signal<Every>('day');
  protected readonly day = signal('1');

  protected readonly fieldLabel = computed(() => WAYS.find(({ is }) => is === this.draftWay())!.field);
  protected readonly field = computed(() => {
    const { from } = this.source();
    if (this.wayOf(from) !== this.draftWay()) return this.draftWay() === 'address' ? 'https://' : '';
    return 'address' in from ? from.address || 'https://' : 'file' in from ? from.file : from.query;
  });
  protected readonly steps = computed(() => {
    const { rhythm } = this.source();
    return rhythm.every === 'minutes' || rhythm.every === 'hours' ? String(rhythm.number) : '15';
  });
  protected readonly time = computed(() => {
    const { rhythm } = this.source();
    return 'at' in rhythm ? rhythm.at : NIGHTLY;
  });
  protected readonly timeZone = computed(() => {
    const { rhythm } = this.source();
    return 'zone' in rhythm ? rhythm.zone : zoneHere();
  });
  protected readonly keptSecret = computed(() => this.kept()?.hasSecret === true);

  protected readonly phrases = computed(() => {
    const { from } = this.source();
    const isBlank = 'address' in from && from.address === '';
    const [first, ...rest] = sourceSentence(this.source());
    // The name of the table begins the sentence.
    return [{ text: first.text.toLowerCase() }, ...rest].map((phrase) =>
      phrase.sets === 'from' && isBlank ? { ...phrase, text: 'somewhere' } : phrase,
    );
  });
  protected readonly isSaid = computed(() => {
    const { from } = this.source();
    return !('address' in from) || from.address !== '';
  });
  protected readonly isWaiting = computed(() => this.kept()?.waiting ?? undefined);
  private readonly asked = computed(() => JSON.stringify([this.source(), this.secret() ?? null]));
  protected readonly canKeep = computed(() => this.plan() !== undefined && this.tried() === this.asked());
  protected readonly stored = computed(() => (this.kept() ? '' : 'nothing is stored yet'));
  protected readonly planWords = computed(() => {
    const plan = this.plan();
    if (!plan) return '';
    const { added, changed } = plan;
    const gone = this.source().gone === 'remove' ? plan.gone : 0;
    const stay =
      this.source().gone === 'keep' && plan.gone > 0 ? ` ${rowsCounted(plan.gone)} that are not there stay.` : '';
    return `It would change this now: ${countsWords({ added, changed, gone })}; ${counted(plan.unchanged)} as they are.${stay}`;
  });
  protected readonly moment = momentWords;

  constructor() {
    toObservable(this.tableId)
      .pipe(
        switchMap((id) =>
          forkJoin({ table: this.api.table(Number(id)), all: this.api.sources() }).pipe(
            catchError((error: unknown) => {
              this.missing.set(errorWords(error));
              return EMPTY;
            }),
          ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe(({ table, all }) => {
        this.table.set(table);
        this.connections.set(all.connections.map((name) => ({ name, value: name })));
        this.hasInTray.set(all.inTray);
        const kept = all.sources.find(({ table: of }) => of === table.id);
        this.kept.set(kept);
        this.source.set(kept?.source ?? { ...this.source(), ...this.likely(table) });
        if (kept && this.look() !== undefined) this.try();
      });
  }

  /** The key and the way of rows that are gone, as the last refresh had them, or as they are likely. */
  private likely({ columns, refreshedBy }: TableSummary): Pick<Source, 'key' | 'gone'> {
    if (refreshedBy && refreshedBy.key.length > 0) return { key: refreshedBy.key, gone: refreshedBy.gone };
    const named = columns.find(({ name, borrows }) => !borrows && KEYS.test(name));
    return { key: named ? [named.name] : [], gone: 'keep' };
  }

  private wayOf(from: SourceFrom): Way {
    return 'address' in from ? 'address' : 'file' in from ? 'file' : 'query';
  }

  protected open(part: SourcePart, event: Event): void {
    const { from, rhythm } = this.source();
    this.setting.set(part);
    this.draftWay.set(this.wayOf(from));
    this.connection.set('connection' in from ? from.connection : (this.connections()[0]?.value ?? ''));
    this.signIn.set('signIn' in from ? from.signIn : 'none');
    this.draftEvery.set(rhythm.every);
    this.day.set('day' in rhythm ? String(rhythm.day) : '1');
    this.pop().toggle(event);
  }

  /** Takes what was said into the sentence; it is to be tried again. */
  protected says(change: Partial<Source>, isOver = true): void {
    this.source.update((source) => ({ ...source, ...change }));
    this.plan.set(undefined);
    this.problem.set('');
    if (isOver) this.pop().hide();
  }

  protected saysFrom(event: Event): void {
    const said = saidIn(event);
    const text = said('words').trim();
    const way = this.draftWay();
    if (text === '' || (way === 'address' && text === 'https://')) return;
    const from: SourceFrom =
      way === 'file'
        ? { file: text }
        : way === 'query'
          ? { connection: this.connection(), query: text }
          : {
              address: /^[a-z][a-z0-9+.-]*:\/\//i.test(text) ? text : `https://${text}`,
              signIn: this.signIn() as 'none' | 'password' | 'token',
            };
    const secret = said('secret');
    this.secret.set(
      secret === ''
        ? undefined
        : this.signIn() === 'token'
          ? { token: secret.trim() }
          : { user: said('user'), password: secret },
    );
    const { rhythm } = this.source();
    // A database does not say when something is new.
    this.says({ from, ...(way === 'query' && rhythm.every === 'change' && { rhythm: { every: 'hours', number: 1 } }) });
  }

  protected saysRhythm(event: Event): void {
    const said = saidIn(event);
    const every = this.draftEvery();
    const day = { at: said('at') || NIGHTLY, zone: said('zone').trim() || zoneHere() };
    const rhythm: Rhythm =
      every === 'change'
        ? { every }
        : every === 'day'
          ? { every, ...day }
          : every === 'week'
            ? { every, day: Number(this.day()), ...day }
            : { every, number: Math.min(1_000, Math.max(1, Math.round(Number(said('number'))) || 1)) };
    this.says({ rhythm });
  }

  protected saysKey(name: string, is: boolean): void {
    const { key } = this.source();
    this.says({ key: is ? [...key, name] : key.filter((one) => one !== name) }, false);
  }

  protected saysMost(event: Event): void {
    this.says({ most: Math.min(100, Math.max(0, Math.round(Number(saidIn(event)('most'))) || 0)) });
  }

  private request(): { source: Source; secret?: SourceSecret } {
    const secret = this.secret();
    return { source: this.source(), ...(secret && { secret }) };
  }

  /** Asks the server, one thing at a time, and says where it refuses. */
  private ask<T>(asked: Observable<T>, then: (answer: T) => void): void {
    this.busy.set(true);
    this.problem.set('');
    asked.subscribe({
      next: (answer) => {
        this.busy.set(false);
        then(answer);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.problem.set(errorWords(error));
      },
    });
  }

  protected try(): void {
    const asked = this.asked();
    this.plan.set(undefined);
    this.ask(this.api.trySource(Number(this.tableId()), this.request()), (plan) => {
      this.plan.set(plan);
      this.tried.set(asked);
    });
  }

  protected keep(): void {
    const id = Number(this.tableId());
    this.ask(this.api.keepSource(id, this.request(), this.kept()?.version), (told) => {
      const next = told.next === null ? 'whenever there is a file for it' : `next on ${momentWords(told.next)}`;
      void this.router.navigate(['/']).then(() =>
        this.remarks.say(`${this.table()!.name} refreshes itself from now on: ${next}.`, {
          name: 'Do it now',
          does: () =>
            this.api.runSource(id, true).subscribe({ error: (error: unknown) => this.remarks.say(errorWords(error)) }),
        }),
      );
    });
  }

  protected end(): void {
    this.ask(this.api.endSource(Number(this.tableId())), () => {
      void this.router
        .navigate(['/'])
        .then(() => this.remarks.say(`${this.table()!.name} does not refresh itself any more.`));
    });
  }

  protected run(anyway: boolean): void {
    this.ask(this.api.runSource(Number(this.tableId()), anyway), (told) => this.over(told));
  }

  protected leaveWaiting(): void {
    this.ask(this.api.leaveSource(Number(this.tableId())), (told) => this.over(told));
  }

  private over(told: SourceTold): void {
    this.kept.set(told);
    this.plan.set(undefined);
    if (told.last?.outcome === 'failed') this.problem.set(`It failed: ${told.last.why ?? ''}.`);
    else if (!told.waiting) void this.router.navigate(['/']);
  }
}
