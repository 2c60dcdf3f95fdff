/** The writing thread as it is called from the main one: each file by its number, its bytes as they are asked for. */
import type { TakenRow, TakeOutForm, Writing } from '@usual-needle/contract';
import { misfitOf, WRITERS, type Taken } from '@usual-needle/formats/write';
import { releaseProxy, transfer, type Remote } from 'comlink';
import { beginnings } from './beginnings.js';
import { unpacked, type PackedRows } from './packed-rows.js';

/** Bytes that are sent at once, at least, while there are so many. */
const AT_ONCE = 64 * 1024;

/** Gives the next rows; undefined after the last. */
export type NextRows = () => Promise<PackedRows | undefined>;

/** Rows as they come; the next are asked for while the ones before are written. */
async function* rowsOf(next: NextRows): AsyncGenerator<readonly TakenRow[]> {
  for (let coming = next(); ;) {
    const rows = await coming;
    if (!rows) return;
    coming = next();
    // Whoever stops here does not wait for them.
    coming.catch(() => undefined);
    yield unpacked(rows);
  }
}

/** A file that is being written, and where its rows come from. */
interface WrittenFile {
  readonly writer: AsyncIterator<string | Uint8Array>;
  readonly next: NextRows;
}

/** Closes the way to where rows come from: it would be held for ever. */
function letGo(next: NextRows): void {
  (next as Partial<Remote<NextRows>>)[releaseProxy]?.();
}

export class WritingThread {
  private readonly files = new Map<number, WrittenFile>();

  /** Begins to write a file. @returns why the rows do not fit the form, if so */
  open(file: number, form: TakeOutForm, taken: Taken, writing: Writing, next: NextRows): string | undefined {
    const misfit = misfitOf(form, taken, writing.marks === true);
    const writer = WRITERS[form](taken, rowsOf(next), writing)[Symbol.asyncIterator]();
    if (misfit === undefined) this.files.set(file, { writer, next });
    else letGo(next);
    return misfit;
  }

  /** The next bytes of a file; undefined after the last. */
  async read(file: number): Promise<Uint8Array | undefined> {
    const writer = this.files.get(file)?.writer;
    if (!writer) return undefined;
    const encoder = new TextEncoder();
    const parts: Uint8Array[] = [];
    let size = 0;
    while (size < AT_ONCE) {
      const { value, done } = await writer.next();
      if (done) break;
      const part = typeof value === 'string' ? encoder.encode(value) : value;
      parts.push(part);
      size += part.length;
    }
    if (size === 0) return undefined;
    const bytes = new Uint8Array(size);
    let at = 0;
    for (const part of parts) {
      bytes.set(part, at);
      at += part.length;
    }
    return transfer(bytes, [bytes.buffer]);
  }

  /** Nobody reads any more of it. */
  async close(file: number): Promise<void> {
    const written = this.files.get(file);
    this.files.delete(file);
    try {
      await written?.writer.return?.();
    } finally {
      if (written) letGo(written.next);
    }
  }

  /** Rows that lately began to be on show, see `beginnings`. */
  beginnings(...asked: Parameters<typeof beginnings>): ReturnType<typeof beginnings> {
    return beginnings(...asked);
  }
}
