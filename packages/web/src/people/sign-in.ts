import { HttpClient } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, inject, input, signal } from '@angular/core';
import { Router } from '@angular/router';
import { InputText } from 'primeng/inputtext';
import { errorWords } from '../common/error-words';
import { MyAccess } from './me';
import { PageHead } from './page-head';

/** The page where one signs in, and goes on to where one was going. */
@Component({
  selector: 'un-sign-in',
  imports: [InputText, PageHead],
  template: `
    <un-page-head title="Sign in" />
    <main class="narrow">
      <p class="says">Say who you are.</p>
      <form class="lines" (submit)="$event.preventDefault(); signIn(name.value, password.value)">
        <label>Name <input #name pInputText autofocus autocomplete="username" maxlength="200" required /></label>
        <label
          >Password
          <input #password pInputText type="password" autocomplete="current-password" maxlength="200" required
        /></label>
        <p class="wrong" role="alert">{{ wrong() }}</p>
        <button type="submit" class="main" [disabled]="busy()">Sign in</button>
      </form>
      @if (access.me()?.first) {
        <p class="empty">
          Nobody can sign in yet. Whoever runs this server has been told a link, once, at its start: it makes the first
          builder, who invites the others.
        </p>
      }
    </main>
  `,
  styleUrl: './page.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SignInPage {
  private readonly http = inject(HttpClient);
  private readonly router = inject(Router);
  protected readonly access = inject(MyAccess);

  /** The address that one was going to. */
  readonly to = input<string>();
  protected readonly wrong = signal('');
  protected readonly busy = signal(false);

  protected signIn(name: string, password: string): void {
    this.busy.set(true);
    this.http.post('/api/sign-in', { name, password }).subscribe({
      next: () => {
        this.access.changed();
        void this.router.navigateByUrl(ownAddress(this.to()));
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.wrong.set(errorWords(error));
      },
    });
  }
}

/** An address of ours; anything else that a link may have put there leads to the shelf. */
export function ownAddress(to: string | undefined): string {
  return to !== undefined && /^\/(?![/\\])/.test(to) && !to.startsWith('/sign-in') ? to : '/';
}
