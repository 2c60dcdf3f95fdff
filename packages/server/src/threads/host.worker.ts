/** A host of tables, in a thread of its own, so that no search ever waits for a request and none makes one wait. */
import { parentPort, workerData, type MessagePort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { HostThread } from './host-thread.js';
import { answerAt } from './question-port.js';

const host = new HostThread();
expose(host, nodeEndpoint(parentPort!));
const { questions } = workerData as { questions: MessagePort };
answerAt(questions, (scope, id, request) => host.search(scope, id, request));
