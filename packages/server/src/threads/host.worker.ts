/** A host of tables, in a thread of its own, so that no search ever waits for a request and none makes one wait. */
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { HostThread } from './host-thread.js';

expose(new HostThread(), nodeEndpoint(parentPort!));
