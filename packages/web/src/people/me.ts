import { HttpClient, type HttpInterceptorFn } from '@angular/common/http';
import { computed, inject, Injectable, signal } from '@angular/core';
import type { Me } from '@usual-needle/contract';
import { Router } from '@angular/router';
import { catchError, EMPTY, throwError } from 'rxjs';
import { Standing } from '../services/standing';
import { Person } from '../services/person';
import { statusOf } from '../common/error-words';

/** The one at this browser, as the server knows them. */
@Injectable({ providedIn: 'root' })
export class MyAccess {
  private readonly http = inject(HttpClient);
  private readonly person = inject(Person);
  private readonly router = inject(Router);
  private readonly standing = inject(Standing);

  readonly me = signal<Me | undefined>(undefined);
  /** The made-up person of the demo as whom this window looks at it. */
  readonly asMadeUp = computed(() => this.me()?.madeUp.find(({ host }) => host === location.hostname));
  /** The ways to look at the demo as the made-up people, each in a window of its own. */
  readonly ways = computed(() =>
    (this.me()?.madeUp ?? []).map((one) => ({
      ...one,
      address: `${location.protocol}//${one.host}:${location.port}/`,
    })),
  );
  /** True for who has signed in, and can sign out. */
  readonly isSignedIn = computed(() => this.me()?.is === 'person' && !this.asMadeUp());

  /** Asks the server who that is; where it does not answer, nothing is known. */
  load(): void {
    this.http
      .get<Me>('/api/me')
      .pipe(catchError(() => EMPTY))
      .subscribe((me) => {
        this.me.set(me);
        // Others know a person who is signed in by their own name.
        if (me.name !== null) this.person.name.set(me.name);
      });
  }

  /** Somebody has signed in or out: from now on it is they that ask. */
  changed(): void {
    this.standing.renew();
    this.load();
  }

  /** Signs out, and goes where one signs in. */
  signOut(): void {
    this.http.post('/api/sign-out', {}).subscribe(() => {
      this.changed();
      void this.router.navigate(['/sign-in']);
    });
  }
}

/** Leads whoever has to sign in first to where that is done, and back to where they were going. */
export const toSignIn: HttpInterceptorFn = (request, next) => {
  const router = inject(Router);
  return next(request).pipe(
    catchError((error: unknown) => {
      const to = location.pathname + location.search;
      if (statusOf(error) === 401 && location.pathname !== '/sign-in')
        void router.navigate(['/sign-in'], { queryParams: { to }, replaceUrl: true });
      return throwError(() => error);
    }),
  );
};
