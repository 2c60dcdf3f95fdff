/**
 * One process a data folder. Two on one PGlite folder corrupt it without a word, so whoever opens it listens on a socket in
 * the folder itself, whatever path led there; the system closes it when the process dies, however it dies.
 *
 * Every opener has a socket of its own name, so that none is ever taken from another. It listens first and looks around
 * after: of two that start at once at least one sees the other, and the one whose name comes first goes on. Who has looked
 * around says `held`, and is never disputed. A socket that nobody answers on is what a killed process left.
 *
 * Source: L. Lamport, "A new solution of Dijkstra's concurrent programming problem", CACM 17(8), 1974 (take a number, then look).
 */
import { readdirSync } from 'node:fs';
import { open, rm, type FileHandle } from 'node:fs/promises';
import { connect, createServer, type Server } from 'node:net';
import { join } from 'node:path';
import { randomBytes } from 'node:crypto';

/** How long an opener may take to answer, in milliseconds; one that does not answer is there all the same. */
const ANSWER_MS = 2_000;
const NAME = /^in-use-[0-9a-f]{24}\.sock$/;

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

/** What an opener says; undefined if there is none any more. */
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
  const release = async (): Promise<void> => {
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
      return release;
    }
    for (const other of others) {
      looked.add(other);
      const said = await ask(short.to(other));
      if (said === undefined) await rm(join(folder, other), { force: true });
      else if (said === 'held' || other < name) {
        await release();
        throw new FolderInUse(folder);
      }
    }
  }
}
