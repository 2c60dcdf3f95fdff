import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readdirSync } from 'node:fs';
import { chmod } from 'node:fs/promises';
import { join } from 'node:path';
import { folderOf, forget } from './starting-program.js';

const FOLDERS = '/usr/lib/postgresql';

function programs(): string | undefined {
  const [version] = existsSync(FOLDERS) ? readdirSync(FOLDERS) : [];
  return version === undefined ? undefined : join(FOLDERS, version, 'bin');
}

/** A real PostgreSQL, of Debian's package; its server does not run as root. */
export class Postgres {
  private constructor(
    readonly url: string,
    private readonly folder: string,
    private child: ChildProcess,
    private readonly again: () => Promise<ChildProcess>,
  ) {}

  /** The one that is installed, or can be. @returns undefined if there is none */
  static async find(): Promise<Postgres | undefined> {
    if (!programs())
      spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'postgresql'], { stdio: 'ignore' });
    const bin = programs();
    return bin === undefined ? undefined : Postgres.start(bin);
  }

  private static async start(bin: string): Promise<Postgres> {
    const folder = await folderOf('postgres');
    await chmod(folder, 0o777);
    const data = join(folder, 'data');
    const asUser = process.getuid?.() === 0 ? ['runuser', '-u', 'postgres', '--'] : [];
    const run = (command: string, args: string[]): [string, string[]] => {
      const [first, ...rest] = [...asUser, join(bin, command), ...args];
      return [first, rest];
    };
    execFileSync(...run('initdb', ['-D', data, '-U', 'needle', '--auth=trust', '-E', 'UTF8', '--locale=C.UTF-8']), {
      stdio: 'ignore',
    });
    const server = run('postgres', ['-D', data, '-k', folder, '-c', 'listen_addresses=', '-c', 'fsync=off']);
    const ready = (): boolean => spawnSync(join(bin, 'pg_isready'), ['-h', folder, '-U', 'needle']).status === 0;
    const up = async (): Promise<ChildProcess> => {
      const child = spawn(...server, { stdio: 'ignore' });
      for (let i = 0; i < 300 && !ready(); i++) await new Promise((done) => setTimeout(done, 100));
      return child;
    };
    return new Postgres(`postgres://needle@/postgres?host=${encodeURIComponent(folder)}`, folder, await up(), up);
  }

  /** Ends at once, as at a failure of its machine, and is there again a moment later. */
  async failOver(): Promise<void> {
    const gone = once(this.child, 'exit');
    spawnSync('pkill', ['-QUIT', '-f', `postgres -D ${this.folder}`]);
    await gone;
    this.child = await this.again();
  }

  /** Breaks off every connection that listens. */
  breakListeners(): void {
    const sql = `select pg_terminate_backend(pid) from pg_stat_activity where query ilike 'listen %'`;
    execFileSync('psql', ['-h', this.folder, '-U', 'needle', '-d', 'postgres', '-c', sql], { stdio: 'ignore' });
  }

  async end(): Promise<void> {
    spawnSync('pkill', ['-INT', '-f', `postgres -D ${this.folder}`]);
    this.child.kill('SIGINT');
    await new Promise((done) => setTimeout(done, 500));
    await forget(this.folder);
  }
}
