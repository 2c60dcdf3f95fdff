/** A server whose clock is set by whoever started it: for a month of runs within minutes. It is killed in between. */
import { pino } from 'pino';
import { startServer } from '@usual-needle/server';

let clock = 0;
const server = await startServer({
  ...{ port: 0, host: '127.0.0.1', data: process.argv[2], demo: false, warmUp: false, searchThreads: 1 },
  log: pino({ level: 'error' }, { write: (line: string) => void process.stderr.write(line) }),
  sources: { allowed: ['127.0.0.1'], now: () => new Date(clock) },
});
await server.loaded;
process.on('message', (message: number | 'end') => {
  if (message === 'end') return void server.stop().then(() => process.exit(0));
  clock = message;
  return void server.sources.rounds.goRound().then(() => process.send!({ done: message }));
});
process.send!({ address: server.address });
