/** `usual-needle find BOX --server ADDRESS`: the rows of a box as its page would show them, from the address that it has on a server. */
import { ROWS_HEADER, type SearchAnswer } from '@usual-needle/contract';
import { UsageProblem, type FindOptions } from './options.js';
import { refusal, Server, Unreachable } from './server-side.js';
import { FORM_OF, put } from './write.js';

/** Options that a box on a server decides by itself. */
const OF_FILES = [
  'strand',
  'in',
  'reading',
  'need',
  'where',
  'case',
  'accents',
  'pick',
  'effect',
  'flip',
  'sort',
  'show',
  'kind',
  'box',
  'explain',
] as const;

/** @param box its number, or the last part of its link @returns the exit code: 0 if there were rows, 1 if none */
export async function findOnServer(box: string, text: string | undefined, options: FindOptions): Promise<number> {
  const said = OF_FILES.filter((name) => {
    const value = options[name];
    return value !== undefined && !(Array.isArray(value) && value.length === 0);
  });
  if (said.length > 0) throw new UsageProblem(`--${said[0]} is for a file; a box on a server is asked as it was made.`);
  const server = new Server({ server: options.server!, token: options.token });
  const slug = encodeURIComponent(box);
  const query = new URLSearchParams(text === undefined ? {} : { q: text });
  if (options.out === 'count') {
    const address = server.at(`/b/${slug}.json?${query.toString()}&limit=0`);
    const { shown } = await server.asked<Pick<SearchAnswer, 'shown'>>(address);
    await put([`${shown}\n`], options.to);
    return shown > 0 ? 0 : 1;
  }
  const address = server.at(`/api/shared/${slug}/as/${FORM_OF[options.out]}?${query.toString()}`);
  const response = await server.fetch(address).catch((error: unknown) => {
    throw new Unreachable(`${address.origin} does not answer: ${(error as Error).message}`);
  });
  if (!response.ok) throw refusal(response.status, await response.json().catch(() => undefined));
  await put(response.body as unknown as AsyncIterable<Uint8Array>, options.to).catch((error: unknown) => {
    throw error instanceof UsageProblem ? error : new Unreachable('It was cut off, and nothing of it is kept.');
  });
  return Number(response.headers.get(ROWS_HEADER)) > 0 ? 0 : 1;
}
