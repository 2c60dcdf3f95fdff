import { fromEvent, map, merge, type Observable, takeUntil } from 'rxjs';

/** Tells how far sideways a pointer is from where it was put down, in pixels, until it is let go. */
export function dragged(event: PointerEvent): Observable<number> {
  event.preventDefault();
  const edge = event.target as HTMLElement;
  edge.setPointerCapture(event.pointerId);
  return fromEvent<PointerEvent>(edge, 'pointermove').pipe(
    map(({ clientX }) => clientX - event.clientX),
    takeUntil(fromEvent(edge, 'lostpointercapture')),
  );
}

/** The moves of a pointer, over whatever it is, until it is let go. */
export function moves(): Observable<PointerEvent> {
  const letGo = merge(fromEvent(window, 'pointerup'), fromEvent(window, 'pointercancel'));
  return fromEvent<PointerEvent>(window, 'pointermove').pipe(takeUntil(letGo));
}
