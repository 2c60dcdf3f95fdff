/** What servers under test log: told where a spec fails, since it may say why. */
import { pino, type Logger } from 'pino';

/** As much is kept, in lines. */
const MOST = 50;

const heard: string[] = [];

/** @returns a log whose errors are kept until the spec is over */
export function heardLog(): Logger {
  const write = (line: string): void => {
    heard.push(line.trimEnd());
    if (heard.length > MOST) heard.shift();
  };
  return pino({ level: 'error' }, { write });
}

/** What was logged since the last call. */
export function takeHeard(): string[] {
  return heard.splice(0);
}
