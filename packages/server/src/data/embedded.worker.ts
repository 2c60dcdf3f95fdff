/** PGlite computes on the thread it is on, so it has this one to itself, and speaks PostgreSQL over a local socket. */
import { once } from 'node:events';
import { parentPort, workerData } from 'node:worker_threads';
import { PGLiteSocketServer } from '@electric-sql/pglite-socket';
import { openDurable, type Compiled } from './durable.js';
import { WholeMessages } from './whole-messages.js';

const { folder, socket } = workerData as { folder: string; socket: string };

// It is compiled while this thread begins; and once, however many databases one process opens.
const [compiled] = (await once(parentPort!, 'message')) as [Compiled];
const db = await openDurable(folder, compiled);
// One connection is used at a time. But after an error the driver opens another before the old one is closed, and a server
// that takes no more than one would reset it.
const server = new PGLiteSocketServer({ db: new WholeMessages(db).facade, path: socket, maxConnections: 8 });
await server.start();
parentPort!.postMessage('ready');

parentPort!.once('message', () => {
  void (async () => {
    await server.stop();
    await db.close();
    parentPort!.postMessage('closed');
    parentPort!.close();
  })();
});
