/** Rows of a source from an address (RFC 9110): asked whether something is new, followed where it leads, and never taken too large. */
import { request as requestPlain, type IncomingMessage } from 'node:http';
import { request as requestSecure } from 'node:https';
import { pipeline } from 'node:stream';
import { createBrotliDecompress, createGunzip, createInflate } from 'node:zlib';
import { LIMITS, type SourceSecret } from '@usual-needle/contract';
import type { Hints } from '@usual-needle/formats';
import type { Seen } from '../data/schema.js';
import { NothingNew, SourceFailed } from './failures.js';
import { NotFetched, type OwnNetwork } from './own-network.js';

/** The longest that a server may say nothing, and that all of it may take, in milliseconds. */
const SILENT_MS = 30_000;
const WHOLE_MS = 15 * 60_000;
const REDIRECTS = 5;

/** Bytes of a source, and what is known of them before they are read. */
export interface Fetched {
  readonly bytes: AsyncIterable<Uint8Array>;
  readonly hints: Hints;
  /** The words by which it is asked next time whether something is new. */
  readonly seen?: Seen | undefined;
  /** Says whether what was fetched has been taken; nothing more is read after. */
  done(taken: boolean, why?: string): Promise<void>;
}

function asked(secret: SourceSecret | undefined): Record<string, string> {
  if (!secret) return {};
  if ('token' in secret) return { authorization: `Bearer ${secret.token}` };
  return { authorization: `Basic ${Buffer.from(`${secret.user}:${secret.password}`, 'utf8').toString('base64')}` };
}

/** The reason that a connection failed, without what was sent on it. */
function reasonOf(error: unknown, host: string): Error {
  if (error instanceof NotFetched || error instanceof SourceFailed) return error;
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return new SourceFailed(`There is no server called ${host}.`);
  if (code === 'ECONNREFUSED') return new SourceFailed(`${host} takes no connection.`);
  if (code === 'ABORT_ERR' || code === 'ETIMEDOUT') return new SourceFailed(`${host} did not answer in time.`);
  return new SourceFailed(`${host} could not be read: ${code ?? message}.`);
}

async function answered(
  url: URL,
  headers: Record<string, string>,
  network: OwnNetwork,
  end: AbortSignal,
): Promise<IncomingMessage> {
  network.check(url.hostname);
  const ask = url.protocol === 'https:' ? requestSecure : requestPlain;
  return new Promise((done, fail) => {
    const options = { headers, lookup: network.lookup, signal: end, timeout: SILENT_MS, agent: false as const };
    const sent = ask(url, options, done);
    sent.on('timeout', () => sent.destroy(new SourceFailed(`${url.hostname} did not answer in time.`)));
    sent.on('error', (error) => fail(reasonOf(error, url.hostname)));
    sent.end();
  });
}

/** The bytes of an answer, unpacked, and counted before and after. */
async function* unpacked(answer: IncomingMessage, host: string): AsyncGenerator<Uint8Array> {
  const coding = (answer.headers['content-encoding'] ?? 'identity').trim().toLowerCase();
  const ways = { gzip: createGunzip, 'x-gzip': createGunzip, br: createBrotliDecompress, deflate: createInflate };
  const way = ways[coding as keyof typeof ways] as (() => ReturnType<typeof createGunzip>) | undefined;
  if (!way && coding !== 'identity' && coding !== '')
    throw new SourceFailed(`${host} has packed it in a way that is not taken: ${coding}.`);
  const stream = way ? pipeline(answer, way(), () => undefined) : answer;
  let size = 0;
  try {
    for await (const piece of stream as AsyncIterable<Uint8Array>) {
      size += piece.length;
      if (size > LIMITS.file)
        throw new SourceFailed(`It has more than ${LIMITS.file / 1024 / 1024} MB, which is all that is taken.`);
      yield piece;
    }
    if (!answer.complete) throw new SourceFailed(`${host} broke off in the middle.`);
  } catch (error) {
    throw reasonOf(error, host);
  } finally {
    answer.destroy();
  }
}

/**
 * @param seen what was there last; undefined to take it whatever it is
 * @throws NothingNew, SourceFailed, NotFetched
 */
export async function fromAddress(
  address: string,
  secret: SourceSecret | undefined,
  seen: Seen | undefined,
  network: OwnNetwork,
): Promise<Fetched> {
  let url = new URL(address);
  const first = url.origin;
  const end = new AbortController();
  const timer = setTimeout(() => end.abort(), WHOLE_MS);
  try {
    for (let redirects = 0; ; redirects++) {
      const answer = await answered(
        url,
        {
          accept: 'text/csv, application/json, application/x-ndjson, */*;q=0.5',
          'accept-encoding': 'gzip, br, deflate',
          'user-agent': 'Usual Needle',
          // Another server than the one that the secret is for is not told it.
          ...(url.origin === first && asked(secret)),
          ...(seen?.etag && { 'if-none-match': seen.etag }),
          ...(seen?.modified && { 'if-modified-since': seen.modified }),
        },
        network,
        end.signal,
      );
      const { statusCode: status = 0, headers } = answer;
      if (status === 200) {
        const { etag, 'last-modified': modified } = headers;
        return {
          bytes: unpacked(answer, url.hostname),
          hints: { type: (headers['content-type'] ?? '').split(';')[0].trim().toLowerCase(), name: lastPart(url) },
          seen: { ...(etag !== undefined && { etag }), ...(modified !== undefined && { modified }) },
          done: () => {
            clearTimeout(timer);
            answer.destroy();
            return Promise.resolve();
          },
        };
      }
      answer.destroy();
      if (status === 304) throw new NothingNew();
      const location = [301, 302, 303, 307, 308].includes(status) ? headers.location : undefined;
      if (location === undefined) throw new SourceFailed(`${url.hostname} answered with ${status}${meaning(status)}.`);
      if (redirects === REDIRECTS) throw new SourceFailed(`${url.hostname} leads from one address to the next.`);
      url = redirected(location, url);
    }
  } catch (error) {
    clearTimeout(timer);
    throw error;
  }
}

function redirected(location: string, from: URL): URL {
  if (!URL.canParse(location, from.href)) throw new SourceFailed(`${from.hostname} leads to no address.`);
  const url = new URL(location, from);
  if (url.protocol !== 'https:' && url.protocol !== 'http:')
    throw new SourceFailed(`${from.hostname} leads to what is no address on the web.`);
  if (from.protocol === 'https:' && url.protocol === 'http:')
    throw new SourceFailed(`${from.hostname} leads from HTTPS to HTTP.`);
  return url;
}

function meaning(status: number): string {
  if (status === 401 || status === 403) return ', which is that the secret is missing or wrong';
  if (status === 404 || status === 410) return ', which is that nothing is there';
  return '';
}

function lastPart({ pathname }: URL): string {
  const last = pathname.split('/').at(-1) ?? '';
  try {
    return decodeURIComponent(last);
  } catch {
    return last;
  }
}
