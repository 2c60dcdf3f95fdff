import { InjectionToken } from '@angular/core';
import type { TakenAway } from '@usual-needle/contract';

/** The page that this is, where it is one that was taken away: then there is no server, and nothing but its own rows. */
export const TAKEN_AWAY = new InjectionToken<TakenAway | undefined>('taken away', {
  providedIn: 'root',
  factory: () => undefined,
});
