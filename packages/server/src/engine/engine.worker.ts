/** The engine's tables, in a thread of their own, so that no search ever waits for a request and none makes one wait. */
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { EngineHost } from './host.js';

expose(new EngineHost(), nodeEndpoint(parentPort!));
