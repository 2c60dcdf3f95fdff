/**
 * Rows of a source from a file in the in-tray, a folder that others put files into. A file is taken once it is whole: when its size and
 * time have stood still from one look to the next. What was taken is moved to `done`, what was refused to `refused`, with the reason beside it.
 */
import { createReadStream } from 'node:fs';
import { lstat, mkdir, open, readdir, rename, writeFile } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { LIMITS } from '@usual-needle/contract';
import { SourceFailed, SourceWaits } from './failures.js';
import type { Fetched } from './from-address.js';

/** A file has to stand still for so long while it is looked at, in milliseconds; one that was written so long ago has. */
const STILL_MS = 5_000;
const LONG_AGO_MS = 60_000;

/** A file, and what tells whether it is still the same. */
interface Lying {
  readonly name: string;
  readonly size: number;
  readonly time: number;
}

/** A name with `*` and `?` in it as a pattern of whole names. Each sign of it is looked at once: no name makes it slow. */
function matches(pattern: string, name: string): boolean {
  let [p, n, star, mark] = [0, 0, -1, 0];
  while (n < name.length) {
    if (pattern[p] === '*') [star, mark, p] = [p, n, p + 1];
    else if (p < pattern.length && (pattern[p] === '?' || pattern[p] === name[n])) [p, n] = [p + 1, n + 1];
    else if (star >= 0) [p, n, mark] = [star + 1, mark + 1, mark + 1];
    else return false;
  }
  while (pattern[p] === '*') p++;
  return p === pattern.length;
}

export class InTray {
  /** Files as they lay when they were looked at first, and when that was. */
  private readonly looked = new Map<string, { readonly lying: Lying; readonly since: number }>();

  /** @param now the time, in milliseconds */
  constructor(
    private readonly folder: string,
    private readonly now: () => number = Date.now,
  ) {}

  /** Makes what belongs into the folder. */
  async ready(): Promise<void> {
    for (const name of ['done', 'refused']) await mkdir(join(this.folder, name), { recursive: true });
  }

  /** The files of a name or pattern that are whole, the oldest first. @throws SourceFailed */
  async whole(pattern: string): Promise<string[]> {
    const found: Lying[] = [];
    for (const name of await this.names()) {
      // What begins with a dot is on its way.
      if (name.startsWith('.') || !matches(pattern, name)) continue;
      // A link leads elsewhere: only what lies here is taken.
      const info = await lstat(join(this.folder, name)).catch(() => undefined);
      if (info?.isFile()) found.push({ name, size: info.size, time: info.mtimeMs });
    }
    for (const name of this.looked.keys())
      if (matches(pattern, name) && !found.some((lying) => lying.name === name)) this.looked.delete(name);
    const still = found.filter((lying) => this.isStill(lying));
    return still.sort((a, b) => a.time - b.time || (a.name < b.name ? -1 : 1)).map(({ name }) => name);
  }

  private async names(): Promise<string[]> {
    try {
      return await readdir(this.folder);
    } catch (error) {
      throw new SourceFailed(`The in-tray cannot be looked into: ${(error as NodeJS.ErrnoException).code}.`);
    }
  }

  private isStill(lying: Lying): boolean {
    const before = this.looked.get(lying.name);
    const isSame = before?.lying.size === lying.size && before.lying.time === lying.time;
    if (!isSame) this.looked.set(lying.name, { lying, since: this.now() });
    return (isSame && this.now() - before.since >= STILL_MS) || this.now() - lying.time >= LONG_AGO_MS;
  }

  /** @throws SourceFailed where it is not there, or not whole yet; SourceWaits for one that is too large */
  async take(pattern: string): Promise<Fetched> {
    const [name] = await this.whole(pattern);
    if (name === undefined)
      throw new SourceFailed(`There is no “${pattern}” in the in-tray yet, or it is still being written.`);
    const path = join(this.folder, name);
    const file = await open(path).catch((error: NodeJS.ErrnoException) => {
      throw new SourceFailed(`“${name}” cannot be read: ${error.code}.`);
    });
    const { size } = await file.stat();
    const bytes = createReadStream(path, { fd: file });
    if (size > LIMITS.file) {
      bytes.destroy();
      throw new SourceWaits(`“${name}” has more than ${LIMITS.file / 1024 / 1024} MB, which is all that is taken.`);
    }
    return {
      bytes: bytes as AsyncIterable<Uint8Array>,
      hints: { name },
      done: async (taken, why) => {
        bytes.destroy();
        if (taken) await this.move(name, 'done');
        else if (why !== undefined) await this.refuse(name, why);
      },
    };
  }

  /** Puts a file aside that is not to be taken, with the reason beside it. */
  async refuse(name: string, why: string): Promise<void> {
    const moved = await this.move(name, 'refused');
    await writeFile(`${moved}.txt`, `${why}\n`);
  }

  private async move(name: string, where: 'done' | 'refused'): Promise<string> {
    await this.ready();
    this.looked.delete(name);
    // Another of that name may be there from before.
    const at = new Date(this.now()).toISOString().replace(/[:.]/g, '-');
    const end = extname(name);
    const to = join(this.folder, where, `${name.slice(0, name.length - end.length)} ${at}${end}`);
    await rename(join(this.folder, name), to).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'ENOENT') throw error;
    });
    return to;
  }
}
