/** The commands `usual-needle backup` and `restore`. */
import { once } from 'node:events';
import { createReadStream, createWriteStream } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { createGzip } from 'node:zlib';
import { resolve } from 'node:path';
import { Command, Option } from 'commander';
import { NoBackup } from './backup/format.js';
import { backupIn, restore } from './backup/read.js';
import { backupLines } from './backup/write.js';
import { openEmbeddedDatabase, openServerDatabase, type Database } from './data/database.js';
import { CannotOpen, startEmbedded } from './data/embedded.js';
import { FolderInUse } from './data/folder-lock.js';

const FAILED = 2;

/** The server does not give what it was asked for. */
class NotGiven extends Error {}

/** Opens the PostgreSQL that `DATABASE_URL` names, or the embedded database of a folder. */
async function opened(data: string): Promise<Database> {
  const url = process.env['DATABASE_URL'];
  return url ? openServerDatabase(url) : openEmbeddedDatabase(await startEmbedded(resolve(data)));
}

async function fromServer(address: string, token: string | undefined): Promise<Readable> {
  const url = new URL('/api/backup', /^https?:\/\//.test(address) ? address : `http://${address}`);
  const reply = await fetch(url, {
    headers: { ...(token !== undefined && { authorization: `Bearer ${token}` }) },
  }).catch((error: unknown) => {
    throw new NotGiven(`${url.origin} does not answer: ${(error as Error).message}`);
  });
  if (!reply.ok || !reply.body)
    throw new NotGiven(`${url.origin} answers with ${reply.status}. Is the token of who builds everything?`);
  return Readable.fromWeb(reply.body as never);
}

/** Writes a file that is there only once it is whole, and was read again. */
async function kept(bytes: Readable, to: string): Promise<string> {
  const half = `${to}.${process.pid}.half`;
  try {
    const file = createWriteStream(half, { mode: 0o600, flush: true });
    bytes.pipe(file);
    bytes.on('error', (error) => file.destroy(error));
    await once(file, 'close');
    if (bytes.errored) throw bytes.errored;
    let at = '';
    for await (const line of backupIn(createReadStream(half))) if ('format' in line) ({ at } = line);
    await rename(half, to);
    return at;
  } catch (error) {
    await rm(half, { force: true });
    throw error;
  }
}

const program = new Command('usual-needle').exitOverride((error) => process.exit(error.exitCode === 0 ? 0 : FAILED));
const folder = (): Option =>
  new Option('--data <folder>', 'folder of an embedded database').env('USUAL_NEEDLE_DATA').default('./data');
program
  .command('backup')
  .description('Backs up all that is kept, of one moment. Secrets of sources are in it, sealed; their key is not.')
  .addOption(folder())
  .option('--server <address>', 'address of a server, which goes on meanwhile')
  .addOption(new Option('--token <token>', 'a token of who builds everything').env('USUAL_NEEDLE_TOKEN'))
  .requiredOption('--to <file>', 'file that it goes to, which is there only once it is whole')
  .action(async ({ data, server, token, to }: { data: string; server?: string; token?: string; to: string }) => {
    if (server !== undefined) return console.log(`Backed up as of ${await kept(await fromServer(server, token), to)}`);
    const database = await opened(data);
    try {
      console.log(`Backed up as of ${await kept(Readable.from(backupLines(database.db)).pipe(createGzip()), to)}`);
    } finally {
      await database.close();
    }
  });
program
  .command('restore')
  .description('Puts a backup into an empty folder, or into the empty PostgreSQL that DATABASE_URL names.')
  .addOption(folder())
  .requiredOption('--from <file>', 'file of the backup')
  .action(async ({ data, from }: { data: string; from: string }) => {
    const file = createReadStream(from);
    await once(file, 'open');
    const database = await opened(data);
    try {
      const { at, rows } = await restore(database, file);
      console.log(`Restored as of ${at}: ${rows.toLocaleString('en')} rows`);
    } finally {
      await database.close();
    }
  });

/** Why it was not done, in one line. */
function reason(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  if (error instanceof FolderInUse)
    return `The data folder ${error.folder} is in use. A server that runs is backed up by --server ADDRESS.`;
  if ([NoBackup, NotGiven, CannotOpen].some((kind) => error instanceof kind)) return message;
  if (code === 'ENOENT' || code === 'EACCES') return message.replace(/^\w+: /, '');
  return `It was not done: ${message.split('\n')[0]}`;
}

try {
  await program.parseAsync();
} catch (error) {
  console.error(reason(error));
  process.exitCode = FAILED;
}
