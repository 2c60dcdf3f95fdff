/** The processor time that a server's threads have taken so far, by what they do (Linux: `/proc/PID/task`). */
import { readdir, readFile } from 'node:fs/promises';

/** Seconds of processor time of each kind of thread. */
export interface ProcessorTime {
  /** The thread that reads, checks and sends. */
  readonly main: number;
  /** Threads that search, and the database's. */
  readonly search: number;
  /** The platform's own: collecting and compiling. */
  readonly helpers: number;
  /** Files. */
  readonly files: number;
}

/** Ticks a second of `stat`, which is 100 on every Linux that there is. */
const TICKS = 100;
/** Node's threads in the order in which it starts them: main, a timer, V8's four, a signal's, libuv's four; then our own. */
const FIRST_HELPER = 2;
const HELPERS = 4;
const FIRST_FILES = FIRST_HELPER + HELPERS;
const FIRST_OWN = FIRST_FILES + 5;

async function secondsOf(process: string, thread: number): Promise<number> {
  // A thread may end while it is looked at.
  const stat = await readFile(`/proc/${process}/task/${thread}/stat`, 'utf8').catch(() => '');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  return (Number(fields[11] ?? 0) + Number(fields[12] ?? 0)) / TICKS;
}

/** @param process its number */
export async function processorTime(process: string): Promise<ProcessorTime> {
  const threads = (await readdir(`/proc/${process}/task`)).map(Number).sort((a, b) => a - b);
  const seconds = await Promise.all(threads.map((thread) => secondsOf(process, thread)));
  const sum = (from: number, to?: number): number => seconds.slice(from, to).reduce((all, one) => all + one, 0);
  return {
    main: sum(0, 1),
    helpers: sum(FIRST_HELPER, FIRST_FILES),
    files: sum(FIRST_FILES, FIRST_OWN),
    search: sum(FIRST_OWN),
  };
}
