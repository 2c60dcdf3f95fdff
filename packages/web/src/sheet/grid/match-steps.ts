import { DestroyRef, Injectable, inject } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { catchError, concatMap, EMPTY, map, type Observable, Subject } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { patiently } from '../../services/latest';
import { Remarks } from '../../services/remarks';
import { Answers } from '../state/answers';
import { Selection } from './selection';
import { Viewport } from './viewport';

/** Going from match to match; each step goes on from the one before. */
@Injectable()
export class MatchSteps {
  private readonly answers = inject(Answers);
  private readonly remarks = inject(Remarks);
  private readonly selection = inject(Selection);
  private readonly viewport = inject(Viewport);
  private readonly steps = new Subject<boolean>();
  /** The match that was gone to, in words. */
  readonly reached = new Subject<string>();

  constructor() {
    this.steps
      .pipe(
        concatMap((backwards) => this.step(backwards)),
        takeUntilDestroyed(inject(DestroyRef)),
      )
      .subscribe();
  }

  /** Brings the next (or previous) match after the last row gone to into view. */
  go(backwards: boolean): void {
    this.steps.next(backwards);
  }

  private step(backwards: boolean): Observable<void> {
    const { viewport } = this;
    const from = this.selection.at() ?? (backwards ? viewport.shown() : Math.ceil(viewport.first()) - 1);
    return this.answers.nextMatch(from, backwards).pipe(
      patiently(1),
      map(({ index }) => {
        if (index === null) {
          this.reached.next(backwards ? 'No match before this one.' : 'No further match.');
          return;
        }
        this.selection.goTo(index);
        viewport.lead(index);
        this.reached.next(`Match in row ${this.answers.rowAt(index)?.place ?? index + 1}.`);
      }),
      catchError((error: unknown) => {
        this.remarks.say(`The next match was not found. ${errorWords(error)}`);
        return EMPTY;
      }),
    );
  }
}
