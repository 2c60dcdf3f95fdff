/**
 * Keeps a data folder to one process. Two on one PGlite folder corrupt it without a word, so whoever opens it listens on a socket in
 * the folder itself, whatever path led there; the system closes it when the process dies, however it dies.
 *
 * Every opener has a socket of its own name, so that none is ever taken from another. It listens first and looks around
 * after: of two that start at once at least one sees the other, and the one whose name comes first goes on. Who has looked
 * around says `held`, and is never disputed. A socket that nobody answers on is what a killed process left.
 *
 * Versions of before had one socket of a fixed name, and knew of no other: whoever holds the folder listens on that one as well,
 * so that they find it in use, and it is asked like all others. From now on every version listens on a socket whose name
 * begins with `in-use`, and asks every such socket; one that does not say `starting` and its name holds the folder.
 *
 * Source: L. Lamport, "A new solution of Dijkstra's concurrent programming problem", CACM 17(8), 1974 (take a number, then look).
 */
import { readdirSync } from 'node:fs';
import { open, rm, type FileHandle } from 'node:fs/promises';
import { connect, createServer, type Server } from 'node:net';
import { join, resolve } from 'node:path';
import { createHash, randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';

/** How long an opener may take to answer, in milliseconds; one that does not answer is there all the same. */
const ANSWER_MS = 2_000;
const NAME = /^in-use.*\.sock$/;
/** Longest path that a socket of a former version had; a longer one was put elsewhere. */
const FORMER_PATH = 100;

/** Finds where a former version listens. */
function formerSocket(folder: string): string {
  const inside = join(resolve(folder), 'in-use.sock');
  if (process.platform !== 'win32' && inside.length <= FORMER_PATH) return inside;
  const name = `usual-needle-${createHash('sha256').update(resolve(folder)).digest('hex').slice(0, 24)}`;
  return process.platform === 'win32' ? `\\\\.\\pipe\\${name}` : join(tmpdir(), `${name}.sock`);
}

export class FolderInUse extends Error {
  constructor(readonly folder: string) {
    super(
      `The data folder ${folder} is in use by another Usual Needle. Stop that one, or choose another folder with --data.`,
    );
  }
}

/** The folder by a path short enough for a socket, however long and winding its own is. */
class ShortPath {
  private constructor(
    private readonly folder: string,
    private readonly handle: FileHandle | undefined,
  ) {}

  static async of(folder: string): Promise<ShortPath> {
    return new ShortPath(folder, process.platform === 'linux' ? await open(folder, 'r') : undefined);
  }

  to(name: string): string {
    return this.handle ? `/proc/self/fd/${this.handle.fd}/${name}` : join(this.folder, name);
  }

  async close(): Promise<void> {
    await this.handle?.close();
  }
}

function listen(path: string, says: () => string): Promise<Server> {
  return new Promise((done, fail) => {
    const server = createServer((socket) => {
      socket.on('error', () => socket.destroy());
      socket.end(says());
    });
    server.once('error', fail);
    server.listen(path, () => done(server));
    server.unref();
  });
}

/** Gives what an opener says; undefined if there is none any more. */
function ask(path: string): Promise<string | undefined> {
  return new Promise((done) => {
    let said = '';
    const socket = connect(path);
    socket.setTimeout(ANSWER_MS, () => {
      done('held');
      socket.destroy();
    });
    socket.on('data', (data) => (said += data.toString()));
    socket.on('error', ({ code }: NodeJS.ErrnoException) =>
      done(code === 'ECONNREFUSED' || code === 'ENOENT' ? undefined : 'held'),
    );
    socket.on('end', () => done(said || 'held'));
  });
}

/** Listens where former versions look. @returns undefined if one of them, or another of ours, is there */
async function listenAsFormer(folder: string): Promise<Server | undefined> {
  const path = formerSocket(folder);
  for (let tries = 0; tries < 2; tries++) {
    try {
      return await listen(path, () => 'held');
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EADDRINUSE' || (await ask(path)) !== undefined) return undefined;
      // A process that was killed left it.
      await rm(path, { force: true });
    }
  }
  return undefined;
}

/**
 * Takes the lock of a folder that exists.
 * @returns what gives it back
 * @throws FolderInUse, or what the system says of a folder that cannot be written to
 */
export async function lockFolder(folder: string): Promise<() => Promise<void>> {
  const short = await ShortPath.of(folder);
  const name = `in-use-${randomBytes(12).toString('hex')}.sock`;
  let held = false;
  const server = await listen(short.to(name), () => (held ? 'held' : `starting ${name}`)).catch(async (error) => {
    await short.close();
    throw error as Error;
  });
  let former: Server | undefined;
  const release = async (): Promise<void> => {
    await new Promise<void>((done) => (former ? former.close(() => done()) : done()));
    await new Promise<void>((done) => server.close(() => done()));
    await rm(join(folder, name), { force: true });
    await short.close();
  };
  const looked = new Set([name]);
  for (;;) {
    // Looked around and said in one go: who listens after this look finds it said.
    const others = readdirSync(folder).filter((one) => NAME.test(one) && !looked.has(one));
    if (others.length === 0) {
      held = true;
      former = await listenAsFormer(folder);
      if (former) return release;
      await release();
      throw new FolderInUse(folder);
    }
    for (const other of others) {
      looked.add(other);
      const said = await ask(short.to(other));
      if (said === undefined) await rm(join(folder, other), { force: true });
      else if (!said.startsWith('starting in-use-') || other < name) {
        await release();
        throw new FolderInUse(folder);
      }
    }
  }
}
