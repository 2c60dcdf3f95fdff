/**
 * One process a data folder. Two on one PGlite folder corrupt it without a word, so the folder is locked by a socket in
 * it: the system lets one process listen there, and lets go when the process dies, however it dies. A socket file
 * that nobody answers is what a killed process left, and is taken over.
 */
import { createHash } from 'node:crypto';
import { rename, rm } from 'node:fs/promises';
import { connect, createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

/** Longest path a socket can have everywhere. */
const SOCKET_PATH = 100;

export class FolderInUse extends Error {
  constructor(readonly folder: string) {
    super(`The data folder ${folder} is in use by another Usual Needle. Stop that one, or choose another folder with --data.`);
  }
}

function socketPath(folder: string): string {
  const inside = join(resolve(folder), 'in-use.sock');
  if (process.platform !== 'win32' && inside.length <= SOCKET_PATH) return inside;
  const name = `usual-needle-${createHash('sha256').update(resolve(folder)).digest('hex').slice(0, 24)}`;
  return process.platform === 'win32' ? `\\\\.\\pipe\\${name}` : join(tmpdir(), `${name}.sock`);
}

function listen(path: string, token: string): Promise<Server | undefined> {
  return new Promise((done, fail) => {
    const server = createServer((socket) => {
      socket.on('error', () => socket.destroy());
      socket.end(token);
    });
    server.once('error', (error: NodeJS.ErrnoException) => (error.code === 'EADDRINUSE' ? done(undefined) : fail(error)));
    server.listen(path, () => done(server));
    server.unref();
  });
}

/** What the holder of the lock says; undefined if nobody answers. */
function ask(path: string): Promise<string | undefined> {
  return new Promise((done) => {
    let said = '';
    const socket = connect(path);
    socket.setTimeout(2_000, () => {
      done(said);
      socket.destroy();
    });
    socket.on('data', (data) => (said += data.toString()));
    socket.on('error', () => done(undefined));
    socket.on('end', () => done(said));
  });
}

/**
 * Takes the lock of a folder that exists.
 * @returns what gives it back
 * @throws FolderInUse
 */
export async function lockFolder(folder: string): Promise<() => Promise<void>> {
  const path = socketPath(folder);
  const token = `${process.pid} ${Math.random()}`;
  let server = await listen(path, token);
  if (!server) {
    if ((await ask(path)) !== undefined) throw new FolderInUse(folder);
    await rename(path, `${path}.${process.pid}`).catch(() => undefined);
    await rm(`${path}.${process.pid}`, { force: true });
    server = await listen(path, token);
    // Two that start at once may both have found the old socket dead: the one whose socket stayed in place has the lock.
    if (!server || (await ask(path)) !== token) {
      server?.close();
      throw new FolderInUse(folder);
    }
  }
  const held = server;
  return () => new Promise((done) => held.close(() => done()));
}
