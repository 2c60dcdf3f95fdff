/** Starts a take-away page: the interface's own sheet, over the rows that the page holds. */
import { LocationStrategy } from '@angular/common';
import { provideHttpClient } from '@angular/common/http';
import { provideBrowserGlobalErrorListeners } from '@angular/core';
import { bootstrapApplication } from '@angular/platform-browser';
import { provideRouter } from '@angular/router';
import type { TakenAway } from '@usual-needle/contract';
import { providePrimeNG } from 'primeng/config';
import { preset } from '../look/preset';
import { Api } from '../services/api';
import { Standing } from '../services/standing';
import { OwnRows } from './own-rows';
import { TakeAwayPage } from './page';
import { StillAddress } from './still-address';
import { TakeAwayApi } from './take-away-api';
import { TAKEN_AWAY } from './taken-away';

const textOf = (id: string): string => document.getElementById(id)?.textContent ?? '';

/** @param code the page's script, which its worker runs, too */
export async function start(code: string): Promise<void> {
  const taken = JSON.parse(textOf('about')) as TakenAway;
  const rows = textOf('rows').trim();
  // It would be held for as long as the page is open.
  document.getElementById('rows')?.remove();
  await bootstrapApplication(TakeAwayPage, {
    providers: [
      provideBrowserGlobalErrorListeners(),
      // There is one page, wherever one goes.
      provideRouter([{ path: '**', children: [] }]),
      provideHttpClient(),
      providePrimeNG({ theme: { preset, options: { darkModeSelector: 'system', cssLayer: false } }, ripple: false }),
      { provide: TAKEN_AWAY, useValue: taken },
      { provide: OwnRows, useValue: new OwnRows(code, taken, rows) },
      { provide: Api, useClass: TakeAwayApi },
      { provide: Standing, useValue: {} },
      { provide: LocationStrategy, useFactory: () => new StillAddress(`/b/${taken.id}`) },
    ],
  });
}
