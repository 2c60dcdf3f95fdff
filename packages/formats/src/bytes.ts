/** Streams of bytes: their beginning, their size, and what they are packed in. */
import { FileProblem } from './problem.js';

export type Bytes = AsyncIterable<Uint8Array>;

/** A stream whose beginning can be looked at before it is read. */
export interface Opened {
  readonly head: Uint8Array;
  /** All of it, from the beginning. */
  readonly bytes: Bytes;
}

/** Puts bytes together, one after the other; not copied where there is only one that is not empty. */
export function joined(pieces: readonly Uint8Array[]): Uint8Array {
  const chunks = pieces.filter(({ length }) => length > 0);
  if (chunks.length === 1) return chunks[0];
  const all = new Uint8Array(chunks.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  return all;
}

/** @param size bytes to look at, at least, if there are so many */
export async function opened(bytes: Bytes, size: number): Promise<Opened> {
  const iterator = bytes[Symbol.asyncIterator]();
  const chunks: Uint8Array[] = [];
  let read = 0;
  let done = false;
  while (read < size) {
    const next = await iterator.next();
    if (next.done) {
      done = true;
      break;
    }
    chunks.push(next.value);
    read += next.value.length;
  }
  const head = joined(chunks);
  async function* all(): AsyncGenerator<Uint8Array> {
    try {
      if (head.length > 0) yield head;
      while (!done) {
        const next = await iterator.next();
        if (next.done) return;
        yield next.value;
      }
    } finally {
      await iterator.return?.();
    }
  }
  return { head, bytes: all() };
}

const MB = 1024 * 1024;

/** @throws FileProblem past the limit, in bytes */
export async function* limited(bytes: Bytes, limit: number, what: string): AsyncGenerator<Uint8Array> {
  let size = 0;
  for await (const chunk of bytes) {
    size += chunk.length;
    if (size > limit) throw new FileProblem(`${what} is larger than ${Math.floor(limit / MB)} MB.`);
    yield chunk;
  }
}

/** All of it. @throws FileProblem past the limit */
export async function whole(bytes: Bytes, limit: number, what: string): Promise<Uint8Array> {
  const chunks: Uint8Array[] = [];
  for await (const chunk of limited(bytes, limit, what)) chunks.push(chunk);
  return joined(chunks);
}

export function isGzip(head: Uint8Array): boolean {
  return head[0] === 0x1f && head[1] === 0x8b;
}

// Of the platform, wherever that is.
declare class DecompressionStream {
  constructor(format: 'gzip');
  readonly readable: { getReader(): { read(): Promise<{ done: boolean; value?: Uint8Array }> } };
  readonly writable: {
    getWriter(): {
      write(chunk: Uint8Array): Promise<void>;
      close(): Promise<void>;
      abort(why: unknown): Promise<void>;
    };
  };
}

/** Unpacks gzip (RFC 1952). @throws FileProblem if it is cut short or broken */
export async function* gunzipped(bytes: Bytes): AsyncGenerator<Uint8Array> {
  const { readable, writable } = new DecompressionStream('gzip');
  const writer = writable.getWriter();
  const reader = readable.getReader();
  let failure: unknown;
  let ended = false;
  const writing = (async () => {
    for await (const chunk of bytes) {
      if (ended) return;
      await writer.write(chunk);
    }
    await writer.close();
  })().catch((error: unknown) => {
    failure = error;
    return writer.abort(error).catch(() => undefined);
  });
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      yield value!;
    }
    await writing;
  } catch (error) {
    // What the stream itself says first is what went wrong: with what came in, or with how it is packed.
    if (failure instanceof FileProblem) throw failure;
    const { code } = error as { code?: unknown };
    if (error instanceof TypeError || typeof code === 'string')
      throw new FileProblem('It is packed by gzip, and cut short or damaged. Fetch or pack it again.');
    throw error;
  } finally {
    ended = true;
    void writer.abort(undefined).catch(() => undefined);
  }
}
