/** The command that `npm start` runs. */
import { Command, InvalidArgumentError } from 'commander';
import { destination, pino } from 'pino';
import { FolderInUse } from './data/folder-lock.js';
import { startServer } from './server.js';

function portNumber(text: string): number {
  const port = Number(text);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new InvalidArgumentError('a port is a number from 0 to 65535');
  return port;
}

const program = new Command('npm start --')
  .description('Starts Usual Needle.')
  .option('--port <number>', 'port to listen on', portNumber, 4780)
  .option('--host <address>', 'address to listen on', '127.0.0.1')
  .option('--data <folder>', 'folder of the embedded database', './data')
  .option('--no-demo', 'start without the demo tables')
  .parse();
const { port, host, data, demo } = program.opts<{ port: number; host: string; data: string; demo: boolean }>();
const log = pino({ level: process.env['LOG_LEVEL'] ?? 'info' }, destination(2));

try {
  const server = await startServer({ port, host, data, demo, log, databaseUrl: process.env['DATABASE_URL'] });
  console.log(`Usual Needle is at ${server.address}`);
  let stopping = false;
  const stop = (): void => {
    if (stopping) process.exit(1);
    stopping = true;
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
  const { code } = error as NodeJS.ErrnoException;
  if (error instanceof FolderInUse) console.error(error.message);
  else if (code === 'EADDRINUSE') console.error(`Port ${port} is taken. Choose another with --port.`);
  else log.fatal({ err: error }, 'could not start');
  process.exit(1);
}
