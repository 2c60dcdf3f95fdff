import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { TableSummary, TokenSummary } from '@usual-needle/contract';
import { ago, day } from '../common/ago';
import { namedTables, TOKEN_DOES } from './token-words';

/** Tokens, a line each: what it does, until when, when it was used, and ending it. */
@Component({
  selector: 'un-token-lines',
  template: `
    <ul class="list" aria-label="Tokens">
      @for (token of tokens(); track token.id) {
        <li>
          <bdi class="name">{{ token.name }}</bdi>
          <span class="what">
            @if (token.person; as person) {
              <bdi>{{ person }}</bdi>’s:
            }
            {{ does[token.kind] }} {{ named(token.tables, tables(), all()) }}, until {{ day(token.until) }}.
            <button type="button" class="quiet" [attr.aria-label]="'End ' + token.name" (click)="ended.emit(token)">
              End it
            </button>
          </span>
          <span class="when">{{ token.used ? 'used ' + ago(token.used) : 'not used yet' }}</span>
        </li>
      } @empty {
        <li class="empty">{{ none() }}</li>
      }
    </ul>
  `,
  styleUrl: './page.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TokenLines {
  readonly tokens = input.required<readonly (TokenSummary & { readonly person?: string })[]>();
  readonly tables = input.required<readonly TableSummary[]>();
  /** The words for all tables of a token's person. */
  readonly all = input.required<string>();
  /** The words where there is no token. */
  readonly none = input.required<string>();
  readonly ended = output<TokenSummary>();
  protected readonly does = TOKEN_DOES;
  protected readonly named = namedTables;
  protected readonly ago = ago;
  protected readonly day = day;
}
