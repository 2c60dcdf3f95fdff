import { DestroyRef, Injectable, inject } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { catchError, EMPTY, map, of, Subject, switchMap } from 'rxjs';
import { Answers } from '../state/answers';
import { Viewport } from './viewport';

/**
 * Leads to the first match, where matches are marked in place among all rows and it is out of view; and, once the box is empty,
 * back to where one was, unless one has scrolled elsewhere meanwhile.
 */
@Injectable()
export class FirstMatch {
  private readonly answers = inject(Answers);
  private readonly viewport = inject(Viewport);
  private readonly texts = new Subject<string>();
  /** The first row in view before it led anywhere, and the one that it led to. */
  private before: number | undefined;
  private led: number | undefined;

  constructor() {
    this.texts
      .pipe(
        switchMap((text) =>
          text.trim() === ''
            ? of(null)
            : this.answers.nextMatch(-1, false).pipe(
                map(({ index }) => index ?? undefined),
                // It is a help, not an answer: the next key tries again.
                catchError(() => EMPTY),
              ),
        ),
        takeUntilDestroyed(inject(DestroyRef)),
      )
      .subscribe((index) => {
        if (index === null) this.back();
        else if (index !== undefined) this.lead(index);
      });
  }

  /** Rows that answer another text are on show. */
  follow(text: string): void {
    this.texts.next(text);
  }

  private lead(index: number): void {
    const { viewport } = this;
    const [first, fits] = [viewport.first(), viewport.fits()];
    if (index >= first && index < first + fits - 1) return;
    this.before ??= first;
    viewport.go(index - Math.floor(fits / 3));
    viewport.scrolled();
    this.led = viewport.first();
  }

  private back(): void {
    const { before, led, viewport } = this;
    this.before = this.led = undefined;
    if (before !== undefined && led !== undefined && Math.abs(viewport.first() - led) < 1) viewport.go(before);
  }
}
