import { DestroyRef, Injectable, inject } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { catchError, EMPTY, filter, map, type Observable, of, Subject, switchMap, takeUntil } from 'rxjs';
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
        switchMap((text) => (text.trim() === '' ? of(undefined) : this.first())),
        takeUntilDestroyed(inject(DestroyRef)),
      )
      .subscribe((index) => {
        if (index === undefined) this.back();
        else this.lead(index);
      });
  }

  /** Rows that answer another text are on show. */
  follow(text: string): void {
    this.texts.next(text);
  }

  /** The place of the first match; none once the list is another one, or one has scrolled while it was looked for. */
  private first(): Observable<number> {
    const from = this.viewport.first();
    return this.answers.nextMatch(-1, false).pipe(
      takeUntil(this.answers.renewed),
      filter(({ index }) => index !== null && this.viewport.first() === from),
      map(({ index }) => index!),
      // It is a help, not an answer: the next key tries again.
      catchError(() => EMPTY),
    );
  }

  private lead(index: number): void {
    const { viewport } = this;
    const from = viewport.first();
    viewport.lead(index);
    viewport.scrolled();
    if (viewport.first() === from) return;
    this.before ??= from;
    this.led = viewport.first();
  }

  private back(): void {
    const { before, led, viewport } = this;
    this.before = this.led = undefined;
    if (before !== undefined && led !== undefined && Math.abs(viewport.first() - led) < 1) viewport.go(before);
  }
}
