/** PGlite computes on the thread it is on, so it has this one to itself, and speaks PostgreSQL over a local socket. */
import { parentPort, workerData } from 'node:worker_threads';
import { PGlite } from '@electric-sql/pglite';
import { PGLiteSocketServer } from '@electric-sql/pglite-socket';

const { folder, socket } = workerData as { folder: string; socket: string };

const db = await PGlite.create(folder);
const server = new PGLiteSocketServer({ db, path: socket, maxConnections: 1 });
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
