import { HttpClient } from '@angular/common/http';
import {
  ChangeDetectionStrategy,
  Component,
  effect,
  type ElementRef,
  inject,
  input,
  signal,
  viewChild,
} from '@angular/core';
import { Router } from '@angular/router';
import { PASSWORD_LENGTH, type Invitation } from '@usual-needle/contract';
import { InputText } from 'primeng/inputtext';
import { errorWords } from '../common/error-words';
import { MyAccess } from './me';
import { PageHead } from './page-head';

/** The page that an invitation leads to: one says a password, the first builder a name too, and is signed in. */
@Component({
  selector: 'un-come',
  imports: [InputText, PageHead],
  template: `
    <un-page-head title="Come in" />
    <main class="narrow">
      @if (gone(); as words) {
        <p class="says" role="alert">{{ words }}</p>
      } @else if (invitation(); as one) {
        <p class="says">
          @if (one.name === null) {
            You are the first here: you build everything, and invite the others.
          } @else {
            Welcome, <b>{{ one.name }}</b>. Choose a password, and you are in.
          }
        </p>
        <form class="lines" (submit)="$event.preventDefault(); come(password.value)">
          @if (one.name === null) {
            <label
              >Your name <input #named pInputText autofocus autocomplete="username" maxlength="200" required
            /></label>
          } @else {
            <input type="hidden" autocomplete="username" [value]="one.name" />
          }
          <label>
            Password, {{ least }} letters or more
            <input
              #password
              pInputText
              type="password"
              autocomplete="new-password"
              [attr.minlength]="least"
              maxlength="200"
              required
            />
          </label>
          <p class="wrong" role="alert">{{ wrong() }}</p>
          <button type="submit" class="main" [disabled]="busy()">Come in</button>
        </form>
      }
    </main>
  `,
  styleUrl: './page.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ComePage {
  private readonly http = inject(HttpClient);
  private readonly router = inject(Router);
  private readonly access = inject(MyAccess);
  protected readonly least = PASSWORD_LENGTH.least;

  readonly secret = input.required<string>();
  protected readonly invitation = signal<Invitation | undefined>(undefined);
  protected readonly gone = signal('');
  protected readonly wrong = signal('');
  protected readonly busy = signal(false);
  private readonly named = viewChild<ElementRef<HTMLInputElement>>('named');

  constructor() {
    effect(() => {
      this.http.get<Invitation>(`/api/invitations/${this.secret()}`).subscribe({
        next: (one) => this.invitation.set(one),
        error: (error: unknown) => this.gone.set(errorWords(error)),
      });
    });
  }

  protected come(password: string): void {
    this.busy.set(true);
    const name = this.named()?.nativeElement.value;
    const body = { password, ...(name !== undefined && { name }) };
    this.http.post(`/api/invitations/${this.secret()}`, body).subscribe({
      next: () => {
        this.access.changed();
        void this.router.navigateByUrl('/');
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.wrong.set(errorWords(error));
      },
    });
  }
}
