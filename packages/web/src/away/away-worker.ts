/**
 * A service worker (W3C Service Workers) that does one thing: where a page is asked for and no server answers, it shows the page that
 * says so, in place of the browser's own. It keeps nothing else, and passes everything else on.
 */

/** `away.html` with its script in it; put in when it is built, see `tools/build-away.mjs`. */
declare const AWAY_PAGE: string;

interface WorkerScope extends EventTarget {
  skipWaiting(): Promise<void>;
  readonly clients: { claim(): Promise<void> };
}
interface Installing extends Event {
  waitUntil(work: Promise<unknown>): void;
  /** Not in every browser: what need not go through the worker. */
  addRoutes?(routes: object): Promise<void>;
}
interface Fetching extends Event {
  readonly request: Request;
  respondWith(answer: Promise<Response>): void;
}

const scope = self as unknown as WorkerScope;

async function install(event: Installing): Promise<void> {
  await scope.skipWaiting();
  // Without it all goes through the worker, which passes it on.
  await event
    .addRoutes?.({ condition: { not: { requestMode: 'navigate' } }, source: 'network' })
    .catch(() => undefined);
}

async function page(request: Request): Promise<Response> {
  try {
    return await fetch(request);
  } catch {
    return new Response(AWAY_PAGE, { status: 503, headers: { 'Content-Type': 'text/html; charset=utf-8' } });
  }
}

scope.addEventListener('install', (event) => (event as Installing).waitUntil(install(event as Installing)));
scope.addEventListener('activate', (event) => (event as Installing).waitUntil(scope.clients.claim()));
scope.addEventListener('fetch', (event) => {
  const { request } = event as Fetching;
  if (request.mode === 'navigate') (event as Fetching).respondWith(page(request));
});
