/** Forms are written in a thread of their own, so that neither a search nor a request waits for a spreadsheet file. */
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { WritingThread } from './writing-thread.js';

expose(new WritingThread(), nodeEndpoint(parentPort!));
