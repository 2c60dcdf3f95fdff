import { distinctUntilChanged, map, type Observable, of, switchMap, timer } from 'rxjs';

/** The time, in milliseconds, after which waiting is said; words for less, that come and go at each key, would only flicker. */
const LATE_MS = 150;

/** True once something has been so for a while, and false as soon as it is not. */
export function onceLate(is: Observable<boolean>): Observable<boolean> {
  return is.pipe(
    distinctUntilChanged(),
    switchMap((now) => (now ? timer(LATE_MS).pipe(map(() => true)) : of(false))),
  );
}
