import { HttpClient } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, input, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import {
  isInSet,
  presentPlaces,
  READER_ACTIONS,
  readerScope,
  type BoxShare,
  type MadeLink,
  type People,
  type PersonSummary,
  type Share,
  type StoredBox,
  type TableSummary,
} from '@usual-needle/contract';
import { InputText } from 'primeng/inputtext';
import { catchError, concatMap, EMPTY, firstValueFrom, Subject, tap } from 'rxjs';
import { ago } from '../common/ago';
import { errorWords } from '../common/error-words';
import { listed } from '../common/sentence';
import { Pop } from '../look/pop';
import { Tick } from '../look/tick';
import { copyText } from '../people/copy-text';
import { PageHead } from '../people/page-head';
import { Api } from '../services/api';
import { Remarks } from '../services/remarks';

/** Actions that change the box for its reader; the others are done with its rows. */
const OF_BOX: readonly Share['may'][number][] = ['thread', 'change readings', 'change the effect'];
const OF_ROWS = READER_ACTIONS.filter((action) => !OF_BOX.includes(action));
const SAID: Readonly<Record<Share['may'][number], string>> = {
  thread: 'which columns are searched',
  'change readings': 'how the text is read',
  'change the effect': 'what becomes of matches',
  narrow: 'narrow',
  sort: 'sort',
  flip: 'flip',
  'take out': 'take out',
  edit: 'edit',
  add: 'add rows',
  remove: 'remove rows',
  'see history': 'see the history',
};

type ColumnList = 'columns' | 'searched' | 'editable' | 'locked';

/** A phrase of the sentence: said, said in bold, or opening its choices. */
interface SharePhrase {
  readonly text: string;
  readonly strong?: boolean;
  readonly opens?: 'whom' | 'linking' | 'doing' | 'changing' | 'seeing' | 'finding' | 'locking';
}

/** A row of the table of what a reader gets. */
interface ColumnGot {
  readonly name: string;
  readonly sees: boolean;
  readonly searches: boolean;
  readonly narrows: boolean;
  readonly edits: boolean;
  readonly takes: boolean;
}

/** The share page: one sentence whose phrases are the controls, the link, and what a reader gets, by the scope that is enforced. */
@Component({
  selector: 'un-share',
  imports: [InputText, PageHead, Pop, RouterLink, Tick],
  templateUrl: './share.html',
  styleUrl: '../people/page.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SharePage {
  private readonly http = inject(HttpClient);
  private readonly api = inject(Api);
  private readonly remarks = inject(Remarks);

  readonly boxId = input.required<string>();
  protected readonly stored = signal<StoredBox | undefined>(undefined);
  protected readonly table = signal<TableSummary | undefined>(undefined);
  protected readonly told = signal<BoxShare | undefined>(undefined);
  protected readonly people = signal<readonly PersonSummary[]>([]);
  protected readonly failed = signal('');
  /** The link that was just made: only its hash is kept, so it is told once. */
  protected readonly link = signal('');
  protected readonly ago = ago;
  protected readonly said = SAID;
  protected readonly ofRows = OF_ROWS;
  protected readonly ofBox = OF_BOX;

  /** Choices on their way to the server, one after the other. */
  private readonly saves = new Subject<Share>();
  protected readonly share = computed(() => this.told()?.share);
  private readonly scope = computed(() => {
    const [stored, table, share] = [this.stored(), this.table(), this.share()];
    if (!stored || !table || !share) return undefined;
    return readerScope(stored.box, table.columns, share, this.told()?.lostLock);
  });
  protected readonly names = computed(() => {
    const columns = this.table()?.columns ?? [];
    return presentPlaces(columns).map((at) => columns[at].name);
  });
  protected readonly got = computed<readonly ColumnGot[]>(() => {
    const scope = this.scope();
    if (!scope) return [];
    const may = new Set(scope.actions);
    return this.names().map((name) => {
      const sees = isInSet(scope.visible, name);
      return {
        name,
        sees,
        searches: isInSet(scope.searchable, name),
        narrows: may.has('narrow') && isInSet(scope.narrowable, name),
        edits: may.has('edit') && isInSet(scope.editable, name),
        takes: may.has('take out') && sees,
      };
    });
  });
  protected readonly hidden = computed(() => this.got().flatMap(({ name, sees }) => (sees ? [] : [name])));
  /** Columns that are not seen and yet can be searched: what is in them can be found out. */
  protected readonly foundOut = computed(() =>
    this.got().flatMap(({ name, sees, searches }) => (!sees && searches ? [name] : [])),
  );
  protected readonly pickers = computed(() => (this.stored()?.box.pickers ?? []).map(({ column }) => column));
  protected readonly isLocked = computed(() => this.scope()?.locked !== undefined);
  /** Texts of the strands that leave only rows with them, which can be locked. */
  protected readonly within = computed(() =>
    (this.stored()?.box.strands ?? []).flatMap(({ verb, text }) => (verb === 'within' && text.trim() ? [text] : [])),
  );

  /** The sentence; phrases that open something are its controls. */
  protected readonly phrases = computed<readonly SharePhrase[]>(() => {
    const [told, stored, hidden] = [this.told(), this.stored(), this.hidden()];
    if (!told || !stored) return [];
    const { everyone, people } = told.share;
    const byName = people.length > 0 ? `${people.length === 1 ? '1 person' : `${people.length} people`} by name` : '';
    const whom = [everyone ? 'everyone signed in' : '', byName].filter(Boolean).join(' and ') || 'nobody by name';
    const theirs = this.inWords(OF_BOX);
    const found = this.foundOut();
    const more = hidden.length - 1;
    return [
      { text: stored.name, strong: true },
      { text: ' opens for ' },
      { text: whom, opens: 'whom' },
      { text: ', ' },
      { text: told.link ? 'and by link' : 'and not by link', opens: 'linking' },
      { text: '. They may ' },
      { text: this.inWords(OF_ROWS) || 'only look', opens: 'doing' },
      { text: '; what it searches and how ' },
      { text: theirs ? `is theirs to change: ${theirs}` : 'stays as you made it', opens: 'changing' },
      { text: '. They see ' },
      { text: `${this.names().length - hidden.length} of ${this.names().length} columns`, opens: 'seeing' },
      ...(hidden.length > 0
        ? ([
            { text: '; ' },
            { text: hidden[0], strong: true },
            { text: ` ${more > 0 ? `and ${more} more are` : 'is'} kept from them, and ` },
            {
              text:
                found.length === 0
                  ? 'nothing they do can find out what is in those'
                  : `they can find out what is in ${listed(found)}`,
              opens: 'finding',
            },
          ] as const)
        : []),
      ...(this.pickers().length + this.within().length > 0
        ? ([
            { text: '. There are for them ' },
            { text: this.isLocked() ? 'only the rows that what is locked leaves' : 'all rows', opens: 'locking' },
          ] as const)
        : []),
      { text: '.' },
    ];
  });
  protected readonly aboutLink = computed(() => {
    const { link = false, opened = 0, openedAt = null } = this.told() ?? {};
    const times = opened === 1 ? 'once' : `${opened} times`;
    return [
      link && !this.link() ? 'There is a link, told when it was made; a new one ends it' : '',
      openedAt ? `last opened ${ago(openedAt)}, ${times} in all` : 'not opened yet',
    ]
      .filter(Boolean)
      .join(' · ');
  });

  constructor() {
    effect(() => void this.load(Number(this.boxId())));
    this.saves
      .pipe(
        concatMap((share) =>
          this.http.put(`/api/boxes/${this.boxId()}/share`, share).pipe(
            catchError((error: unknown) => {
              this.remarks.say(`It was not saved. ${errorWords(error)}`);
              return this.http.get<BoxShare>(`/api/boxes/${this.boxId()}/share`).pipe(
                tap((told) => this.told.set(told)),
                catchError(() => EMPTY),
              );
            }),
          ),
        ),
      )
      .subscribe();
    // What is on its way when the page is left is saved all the same.
    inject(DestroyRef).onDestroy(() => this.saves.complete());
  }

  private async load(id: number): Promise<void> {
    try {
      const stored = await firstValueFrom(this.api.box(id));
      this.stored.set(stored);
      this.table.set(await firstValueFrom(this.api.table(stored.tableId)));
      this.told.set(await firstValueFrom(this.http.get<BoxShare>(`/api/boxes/${id}/share`)));
    } catch (error) {
      this.failed.set(errorWords(error));
    }
    // Who does not look after people shares with everyone, or by a link.
    this.http
      .get<People>('/api/people')
      .subscribe({ next: ({ people }) => this.people.set(people), error: () => undefined });
  }

  protected open(pop: Pop, event: Event): void {
    pop.toggle(event);
  }

  protected set(change: Partial<Share>): void {
    const before = this.told();
    if (!before) return;
    // At once, so that the next choice is made on it, though the server has not answered yet.
    const told = { ...before, share: { ...before.share, ...change }, lostLock: false };
    this.told.set(told);
    this.saves.next(told.share);
  }

  protected toggle(list: ColumnList, name: string): void {
    const names = this.share()?.[list] ?? [];
    this.set({ [list]: names.includes(name) ? names.filter((one) => one !== name) : [...names, name] });
  }

  protected lockWithin(): void {
    this.set({ within: !(this.share()?.within ?? false) });
  }

  /** @param text origins, with spaces between; of a whole address its origin is meant */
  protected setSites(text: string): void {
    const words = text.split(/[\s,]+/).filter(Boolean);
    const sites = words
      .flatMap((word) => (URL.canParse(word) ? new URL(word).origin : []))
      .filter((one) => one !== 'null');
    if (sites.length < words.length) {
      this.remarks.say('A site is written with its scheme, as in https://intranet.example.');
      return;
    }
    this.set({ sites: [...new Set(sites)].slice(0, 20) });
  }

  protected toggleMay(action: Share['may'][number]): void {
    const may = this.share()?.may ?? [];
    this.set({ may: may.includes(action) ? may.filter((one) => one !== action) : [...may, action] });
  }

  protected togglePerson(id: number): void {
    const people = this.share()?.people ?? [];
    this.set({ people: people.includes(id) ? people.filter((one) => one !== id) : [...people, id] });
  }

  protected newLink(): void {
    this.http.post<MadeLink>(`/api/boxes/${this.boxId()}/share/link`, {}).subscribe({
      next: ({ path }) => {
        this.link.set(location.origin + path);
        this.told.update((told) => told && { ...told, link: true });
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  protected endLink(): void {
    this.http.delete(`/api/boxes/${this.boxId()}/share/link`).subscribe({
      next: () => {
        this.link.set('');
        this.told.update((told) => told && { ...told, link: false });
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  protected copy(): void {
    void copyText(this.link(), 'The link is copied.', this.remarks);
  }

  /** Some of the actions as one says them; empty for none. */
  protected inWords(of: readonly Share['may'][number][]): string {
    const may = this.share()?.may ?? [];
    return listed(of.flatMap((action) => (may.includes(action) ? [SAID[action]] : [])));
  }
}
