/** The command that `npm start` runs. */
import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import { Command, InvalidArgumentError, Option } from 'commander';
import { destination, pino } from 'pino';
import { toldToLog } from './log-errors.js';
import { CannotOpen } from './data/embedded.js';
import { FolderInUse } from './data/folder-lock.js';
import { startServer } from './server.js';
import { NoConnections } from './sources/sources-run.js';

/** The exit code of what cannot be started. */
const CANNOT_START = 2;
/** A stop that takes longer than this, in milliseconds, is no longer waited for. */
const STOP_MS = 4_500;

/** Each holds tables of its own, and takes some 40 MB beside them. */
const MOST_THREADS = 64;

/** A whole number of an option. @param otherwise what is said of anything else */
function wholeNumber(least: number, most: number, otherwise: string): (text: string) => number {
  return (text) => {
    const number = Number(text);
    if (!/^\d+$/.test(text) || number < least || number > most) throw new InvalidArgumentError(otherwise);
    return number;
  };
}

/** The origin of a site. */
function originOf(text: string): string {
  const url = URL.canParse(text) ? new URL(text) : undefined;
  if (!url || !/^https?:$/.test(url.protocol) || url.origin !== text.replace(/\/$/, ''))
    throw new InvalidArgumentError('A site is named as https://site.example, without a path.');
  return url.origin;
}

/** The certificate, or its key, is missing or cannot be read. */
class NoCertificate extends Error {}

/** An option that can be given by the environment, too: `USUAL_NEEDLE_` and its name. */
function option(flags: string, says: string): Option {
  const made = new Option(flags, says);
  return made.env(`USUAL_NEEDLE_${made.name().replace(/^no-/, 'NO_').replaceAll('-', '_').toUpperCase()}`);
}

/** Things that can be given again; in the environment parted by commas. */
const list =
  (one: (text: string) => string) =>
  (text: string, before: readonly string[]): string[] => [
    ...before,
    ...text.split(',').map((part) => one(part.trim())),
  ];
const plain = (text: string): string => text;

// What is there at all would count as yes: nobody who says no is to have said yes.
for (const name of ['USUAL_NEEDLE_OPEN', 'USUAL_NEEDLE_PROXY'])
  if (/^(?:|0|no|off|false)$/i.test((process.env[name] ?? '').trim())) delete process.env[name];

/** The program may be begun by the installed command. */
const isInstalled = basename(process.argv[1]).startsWith('usual-needle');

const program = new Command(isInstalled ? 'usual-needle serve' : 'npm start --')
  .description('Starts Usual Needle.')
  .addOption(
    option('--port <number>', 'port to listen on')
      .default(4780)
      .argParser(wholeNumber(0, 65_535, 'A port is a number from 0 to 65535.')),
  )
  .addOption(option('--host <address>', 'address to listen on').default('127.0.0.1'))
  .addOption(
    option('--name <name>', 'a further name that it may be called by; can be given again')
      .default([])
      .argParser(list(plain)),
  )
  .addOption(option('--data <folder>', 'folder of the embedded database').default('./data'))
  .addOption(
    option(
      '--search-threads <number>',
      'threads that may search; if not said, one fewer than there are processors, and two at least',
    ).argParser(wholeNumber(1, MOST_THREADS, `From 1 to ${MOST_THREADS} threads can search.`)),
  )
  .addOption(
    option(
      '--memory <megabytes>',
      'memory that it may take: tables asked longest ago rest where there is more',
    ).argParser(wholeNumber(256, 1_048_576, 'From 256 MB on memory can be limited.')),
  )
  .addOption(option('--open', 'let everybody who reaches it do everything, without signing in'))
  .addOption(
    option('--frame <origin>', 'a site that may show shared boxes in a frame; can be given again')
      .default([])
      .argParser(list(originOf)),
  )
  .addOption(option('--proxy', 'trust what one proxy in front of it says of who asks, and by which scheme'))
  .addOption(option('--tls-cert <file>', 'certificate, as PEM, to be reached by HTTPS; with --tls-key'))
  .addOption(option('--tls-key <file>', 'key of that certificate'))
  .addOption(option('--in-tray <folder>', 'folder that others put files into, for tables that refresh themselves'))
  .addOption(
    option('--connections <file>', 'JSON of databases that tables refresh themselves from: {"name": "postgres://…"}'),
  )
  .addOption(
    option(
      '--allow-source <host>',
      'a name or address of the own network that tables may refresh themselves from; can be given again',
    )
      .default([])
      .argParser(list(plain)),
  )
  .addOption(
    option('--key-file <file>', 'key that secrets of sources are kept under; if not said, one in the data folder'),
  )
  .option('--no-demo', 'start without the demo tables')
  .option('--no-warm-up', 'start with less work; the first searches are slower')
  .exitOverride((error) => process.exit(error.exitCode === 0 ? 0 : CANNOT_START))
  .allowExcessArguments(false)
  .showSuggestionAfterError(false)
  .parse();
const {
  port,
  host,
  name,
  data,
  demo,
  warmUp,
  searchThreads,
  memory,
  open,
  frame,
  proxy,
  tlsCert,
  tlsKey,
  ...sourcesAsked
} = program.opts<{
  port: number;
  host: string;
  name: string[];
  data: string;
  demo: boolean;
  warmUp: boolean;
  searchThreads?: number;
  memory?: number;
  open?: boolean;
  frame: string[];
  proxy?: boolean;
  tlsCert?: string;
  tlsKey?: string;
  inTray?: string;
  connections?: string;
  allowSource: string[];
  keyFile?: string;
}>();
const log = pino(
  // Whoever starts it by hand is not told of each request.
  { level: process.env['LOG_LEVEL'] ?? (process.stderr.isTTY ? 'warn' : 'info'), serializers: { err: toldToLog } },
  destination({ dest: 2, sync: true }),
);

/** Reads the certificate that is to be used, if one is. @throws NoCertificate */
function certificate(): { cert: Buffer; key: Buffer } | undefined {
  if (tlsCert === undefined && tlsKey === undefined) return undefined;
  if (tlsCert === undefined || tlsKey === undefined) throw new NoCertificate('--tls-cert and --tls-key go together.');
  const read = (file: string): Buffer => {
    try {
      return readFileSync(file);
    } catch (error) {
      throw new NoCertificate(`${file} cannot be read: ${(error as Error).message}`);
    }
  };
  return { cert: read(tlsCert), key: read(tlsKey) };
}

/** Reads the key that secrets of sources are kept under, if one is given. @throws NoConnections */
function sealingKey(file: string | undefined): string | undefined {
  if (file === undefined) return process.env['USUAL_NEEDLE_KEY'];
  try {
    return readFileSync(file, 'utf8').trim();
  } catch (error) {
    throw new NoConnections(`${file} cannot be read: ${(error as NodeJS.ErrnoException).code}.`);
  }
}

/** Why it could not be started, in one line. */
function reason(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  const told = [NoCertificate, FolderInUse, CannotOpen, NoConnections];
  if (told.some((kind) => error instanceof kind)) return message;
  if (code === 'EADDRINUSE') return `Port ${port} is taken. Choose another with --port.`;
  if (code === 'EACCES') return `Port ${port} may not be listened on. Choose another with --port.`;
  if (code === 'EADDRNOTAVAIL' || code === 'ENOTFOUND' || code === 'EAI_AGAIN' || code === 'EINVAL')
    return `${host} is no address of this machine. Choose another with --host.`;
  return `Usual Needle could not start: ${message.split('\n')[0]}`;
}

try {
  const databaseUrl = process.env['DATABASE_URL'] || undefined;
  const asked = {
    port,
    host,
    names: name,
    data,
    demo,
    warmUp,
    searchThreads,
    memory: memory === undefined ? undefined : memory * 1024 * 1024,
    open,
    frames: frame,
    proxy,
    tls: certificate(),
    sources: {
      ...{ allowed: sourcesAsked.allowSource, inTray: sourcesAsked.inTray, connections: sourcesAsked.connections },
      key: sealingKey(sourcesAsked.keyFile),
    },
    log,
    databaseUrl,
  };
  const server = await startServer(asked);
  console.log(`Usual Needle is at ${server.address}`);
  if (server.firstLink)
    console.log(
      `Nobody can sign in yet. Whoever opens this address first, within a week, builds everything: ${server.firstLink}`,
    );
  if (open) console.log('It is OPEN: everybody who reaches it may see, change and delete everything.');
  let stopping = false;
  const stop = (): void => {
    if (stopping) process.exit(1);
    stopping = true;
    setTimeout(() => process.exit(1), STOP_MS).unref();
    server.stop().then(
      () => process.exit(0),
      (error: unknown) => {
        log.error({ err: error }, 'stopping failed');
        process.exit(1);
      },
    );
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
} catch (error) {
  console.error(reason(error));
  process.exit(CANNOT_START);
}
