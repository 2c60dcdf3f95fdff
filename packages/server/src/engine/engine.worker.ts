/** The engine's tables, in a thread of their own, so that no search ever waits for a request and none makes one wait. */
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { warmUp } from '@usual-needle/engine';
import { EngineHost } from './host.js';

// While the server opens its database there is nothing else to do.
warmUp();
expose(new EngineHost(), nodeEndpoint(parentPort!));
