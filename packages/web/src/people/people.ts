import { HttpClient } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import {
  SIGN_IN_DAYS,
  type AccessRules,
  type Invite,
  type MadeLink,
  type People,
  type PersonChange,
  type PersonSummary,
  type Role,
  type TableSummary,
} from '@usual-needle/contract';
import { InputText } from 'primeng/inputtext';
import { catchError, concatMap, EMPTY, finalize, Subject, type Observable, type Subscription } from 'rxjs';
import { ago } from '../common/ago';
import { errorWords } from '../common/error-words';
import { Pop } from '../look/pop';
import { Tick } from '../look/tick';
import { Api } from '../services/api';
import { Remarks } from '../services/remarks';
import { MyAccess } from './me';
import { copyText } from './copy-text';
import { PageHead } from './page-head';
import { TokenLines } from './token-lines';

type Roles = NonNullable<Invite['roles']>;

/** The people page: who can sign in here, what each may do as a sentence, and what was changed about access. */
@Component({
  selector: 'un-people',
  imports: [InputText, PageHead, Pop, Tick, TokenLines],
  templateUrl: './people.html',
  styleUrl: './page.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PeoplePage {
  private readonly http = inject(HttpClient);
  private readonly api = inject(Api);
  private readonly remarks = inject(Remarks);
  protected readonly access = inject(MyAccess);

  protected readonly all = signal<People | undefined>(undefined);
  protected readonly tables = signal<readonly TableSummary[]>([]);
  protected readonly failed = signal('');
  /** The link that was just made, and for whom; it is told once. */
  protected readonly link = signal<{ readonly name: string; readonly address: string } | undefined>(undefined);
  /** The person whose roles are open. */
  protected readonly opened = signal<PersonSummary | undefined>(undefined);
  /** True while nobody can sign in: the first one has to build everything. */
  protected readonly isFirst = computed(() => this.access.me()?.first === true);
  /** How many can sign in. */
  protected readonly come = computed(
    () =>
      this.all()?.people.filter(
        ({ disabled, invitedUntil, seen }) => !disabled && (seen !== null || invitedUntil === null),
      ).length ?? 0,
  );
  /** The words on those who cannot, or not yet. */
  protected readonly others = computed(() => {
    const others = (this.all()?.people.length ?? 0) - this.come();
    if (others === 0) return '';
    return others === 1 ? '; one more is invited, or may not' : `; ${others} more are invited, or may not`;
  });
  protected readonly roles: readonly (Role | '')[] = ['', 'keeps', 'builds'];
  protected readonly newcomers = ['read', 'keep'] as const;
  protected readonly startsAs = {
    read: 'a reader of what is shared with everyone',
    keep: 'a keeper of every table',
  };
  protected readonly signInDays = SIGN_IN_DAYS;
  protected readonly ago = ago;

  private readonly works = new Subject<Observable<unknown>>();
  private pending = 0;
  private loading: Subscription | undefined;

  constructor() {
    this.works
      .pipe(
        concatMap((work) =>
          work.pipe(
            catchError((error: unknown) => {
              this.remarks.say(errorWords(error));
              return EMPTY;
            }),
            finalize(() => {
              if (--this.pending === 0) this.load();
            }),
          ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe();
    this.load();
    this.api.shelf().subscribe({ next: ({ tables }) => this.tables.set(tables), error: () => undefined });
  }

  private load(): void {
    this.loading = this.http.get<People>('/api/people').subscribe({
      next: (all) => this.show(all),
      error: (error: unknown) => this.failed.set(errorWords(error)),
    });
  }

  private show(all: People): void {
    this.all.set(all);
    this.opened.update((one) => one && all.people.find(({ id }) => id === one.id));
  }

  /** Has something done after what was asked before. What is there then is fetched once nothing more is on its way. */
  private after(work: Observable<unknown>): void {
    this.loading?.unsubscribe();
    this.pending++;
    this.works.next(work);
  }

  protected invite(field: HTMLInputElement, pop: Pop): void {
    const name = field.value.trim();
    const asked: Invite = { name, everything: this.isFirst() };
    this.http.post<MadeLink>('/api/people', asked).subscribe({
      next: (made) => {
        field.value = '';
        pop.hide();
        this.tell(name, made);
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  private tell(name: string, { path }: MadeLink): void {
    this.link.set({ name, address: location.origin + path });
    this.load();
    this.access.load();
  }

  protected again({ id, name }: PersonSummary): void {
    this.http.post<MadeLink>(`/api/people/${id}/link`, {}).subscribe({
      next: (made) => this.tell(name, made),
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  protected takeBack({ id }: PersonSummary): void {
    this.after(this.http.delete(`/api/people/${id}/link`));
  }

  protected change({ id }: PersonSummary, change: PersonChange): void {
    this.after(this.http.patch(`/api/people/${id}`, change));
  }

  protected setRules(change: Partial<AccessRules>): void {
    const all = this.all();
    if (!all) return;
    // At once, so that the next choice is made on it, though the server has not answered yet.
    const rules = { ...all.rules, ...change };
    this.show({ ...all, rules });
    this.after(this.http.patch('/api/people', rules));
  }

  protected endToken(id: number): void {
    this.after(this.http.delete(`/api/tokens/${id}`));
  }

  protected days(number: number): string {
    return number === 1 ? '1 day' : `${number} days`;
  }

  protected roleOf({ roles }: PersonSummary, table: number): Role | '' {
    return roles.find((one) => one.table === table)?.role ?? '';
  }

  protected setRole(person: PersonSummary, table: number, role: Role | ''): void {
    const others = person.roles.filter((one) => one.table !== table);
    const roles: Roles = [...others, ...(role === '' ? [] : [{ table, role }])];
    const all = this.all();
    // At once, so that the next choice is made on it, though the server has not answered yet.
    if (all) this.show({ ...all, people: all.people.map((one) => (one.id === person.id ? { ...one, roles } : one)) });
    this.change(person, { roles });
  }

  /** Tells what a person may do, as a sentence. */
  protected words({ everything, roles }: PersonSummary): string {
    if (everything) return 'Builds everything, and looks after people.';
    const of = (role: Role): string =>
      roles
        .flatMap((one) => (one.role === role ? (this.tables().find(({ id }) => id === one.table)?.name ?? []) : []))
        .join(', ');
    const [builds, keeps] = [of('builds'), of('keeps')];
    const does = [builds && `builds on ${builds}`, keeps && `keeps ${keeps}`, 'reads what is shared']
      .filter(Boolean)
      .join('; ');
    return `${does[0].toUpperCase()}${does.slice(1)}.`;
  }

  protected copy(address: string): void {
    void copyText(address, 'The link is copied.', this.remarks);
  }
}
