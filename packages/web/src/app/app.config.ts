import { provideHttpClient, withInterceptors, withXsrfConfiguration } from '@angular/common/http';
import { type ApplicationConfig, provideBrowserGlobalErrorListeners } from '@angular/core';
import { provideRouter, UrlSerializer, withComponentInputBinding } from '@angular/router';
import { FORM_COOKIE, FORM_HEADER } from '@usual-needle/contract';
import { providePrimeNG } from 'primeng/config';
import { preset } from '../look/preset';
import { toSignIn } from '../people/me';
import { LenientAddresses } from '../services/addresses';
import { routes } from './app.routes';

export const appConfig: ApplicationConfig = {
  providers: [
    provideBrowserGlobalErrorListeners(),
    provideRouter(routes, withComponentInputBinding()),
    { provide: UrlSerializer, useClass: LenientAddresses },
    provideHttpClient(
      withInterceptors([toSignIn]),
      withXsrfConfiguration({ cookieName: FORM_COOKIE, headerName: FORM_HEADER }),
    ),
    providePrimeNG({ theme: { preset, options: { darkModeSelector: 'system', cssLayer: false } }, ripple: false }),
  ],
};
