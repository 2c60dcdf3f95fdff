import { bootstrapApplication } from '@angular/platform-browser';
import { App } from './app/app';
import { appConfig } from './app/app.config';

/** Readies what says that the server is away, which has to be here by then. Without it, or over plain HTTP, the browser says so itself. */
function readyForAbsence(): void {
  void navigator.serviceWorker?.register('/away-worker.js').catch(() => undefined);
}

bootstrapApplication(App, appConfig).then(readyForAbsence, (error: unknown) => console.error(error));
