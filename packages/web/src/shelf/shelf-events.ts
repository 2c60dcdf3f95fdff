import { distinctUntilChanged, EMPTY, fromEvent, map, Observable, startWith, switchMap } from 'rxjs';

/** Waits before trying again after the server has refused, in milliseconds. */
const AGAIN_MS = 5_000;

function listened(): Observable<void> {
  return new Observable((subscriber) => {
    let source: EventSource;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const open = (again: boolean): void => {
      source = new EventSource('/api/events');
      source.addEventListener('changed', () => subscriber.next());
      // What happened while nobody listened is not told.
      source.addEventListener('hello', () => again && subscriber.next());
      source.onerror = () => {
        // The browser goes on by itself, unless the server has refused.
        if (source.readyState === EventSource.CLOSED) timer = setTimeout(() => open(true), AGAIN_MS);
        again = true;
      };
    };
    open(false);
    return () => {
      clearTimeout(timer);
      source.close();
    };
  });
}

/** Says whenever something has happened to a table or a box, while the page is looked at. */
export function shelfEvents(): Observable<void> {
  return fromEvent(document, 'visibilitychange').pipe(
    startWith(undefined),
    map(() => document.visibilityState !== 'hidden'),
    distinctUntilChanged(),
    switchMap((isLookedAt) => (isLookedAt ? listened() : EMPTY)),
  );
}
