import { HttpClient } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import {
  LONGEST_TOKEN_DAYS,
  PASSWORD_LENGTH,
  type MadeToken,
  type TableSummary,
  type TokenKind,
  type TokenList,
  type TokenSummary,
} from '@usual-needle/contract';
import { InputText } from 'primeng/inputtext';
import { errorWords } from '../common/error-words';
import { Pop } from '../look/pop';
import { Tick } from '../look/tick';
import { Api } from '../services/api';
import { Remarks } from '../services/remarks';
import { copyText } from './copy-text';
import { MyAccess } from './me';
import { PageHead } from './page-head';
import { TokenLines } from './token-lines';
import { namedTables, TOKEN_DOES } from './token-words';

/** The page about oneself: one's password, and the tokens that one has given to programs. */
@Component({
  selector: 'un-you',
  imports: [InputText, PageHead, Pop, Tick, TokenLines],
  templateUrl: './you.html',
  styleUrl: './page.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class YouPage {
  private readonly http = inject(HttpClient);
  private readonly api = inject(Api);
  protected readonly remarks = inject(Remarks);
  protected readonly access = inject(MyAccess);

  protected readonly tokens = signal<readonly TokenSummary[] | undefined>(undefined);
  protected readonly tables = signal<readonly TableSummary[]>([]);
  protected readonly failed = signal('');
  /** The token that was just made; it is told once. */
  protected readonly made = signal<MadeToken | undefined>(undefined);
  protected readonly wrong = signal('');

  protected readonly kind = signal<TokenKind>('reads');
  /** Numbers of the tables that the next token is for; none for all of them. */
  protected readonly chosen = signal<readonly number[]>([]);
  protected readonly kinds = Object.entries(TOKEN_DOES) as [TokenKind, string][];
  protected readonly where = computed(() =>
    namedTables(this.chosen().length > 0 ? this.chosen() : null, this.tables(), 'all my tables'),
  );
  protected readonly longest = LONGEST_TOKEN_DAYS;
  protected readonly passwordLength = PASSWORD_LENGTH;
  protected readonly does = TOKEN_DOES;

  constructor() {
    this.load();
    this.api.shelf().subscribe({ next: ({ tables }) => this.tables.set(tables), error: () => undefined });
  }

  private load(): void {
    this.http.get<TokenList>('/api/tokens').subscribe({
      next: ({ tokens }) => this.tokens.set(tokens),
      error: (error: unknown) => this.failed.set(errorWords(error)),
    });
  }

  protected choose(table: number): void {
    this.chosen.update((all) => (all.includes(table) ? all.filter((one) => one !== table) : [...all, table]));
  }

  protected make(name: HTMLInputElement, days: HTMLInputElement): void {
    const tables = this.chosen().length > 0 ? { tables: this.chosen() } : {};
    const asked = { name: name.value.trim(), kind: this.kind(), days: Number(days.value), ...tables };
    this.http.post<MadeToken>('/api/tokens', asked).subscribe({
      next: (made) => {
        this.made.set(made);
        name.value = '';
        this.load();
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  protected end({ id, name }: TokenSummary): void {
    this.http.delete(`/api/tokens/${id}`).subscribe({
      next: () => {
        if (this.made()?.id === id) this.made.set(undefined);
        this.remarks.say(`${name} works no more.`);
        this.load();
      },
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }

  protected changePassword(before: HTMLInputElement, password: HTMLInputElement): void {
    this.wrong.set('');
    this.http.put('/api/me/password', { before: before.value, password: password.value }).subscribe({
      next: () => {
        before.value = password.value = '';
        this.access.changed();
        this.remarks.say('Your password is changed. You are signed out everywhere else.');
      },
      error: (error: unknown) => this.wrong.set(errorWords(error)),
    });
  }

  protected copy(token: string): void {
    void copyText(token, 'The token is copied.', this.remarks);
  }
}
