/**
 * A built table beside the database, so that a start reads it instead of building it. It is derived: whatever does not fit (half
 * written, damaged, of another engine, of another table) is thrown away and built anew.
 *
 * The file: a mark; the parts of the table one after the other, each its numbers and then its texts; a footer in JSON that says
 * where they are, with their checksums (CRC-32, ISO-HDLC, as `zlib` has it); the footer's length and checksum; the mark again.
 */
import { createHash } from 'node:crypto';
import { mkdir, open, readdir, readFile, rename, rm, statfs, type FileHandle } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { crc32 } from 'node:zlib';
import type { Column } from '@usual-needle/contract';
import { PackReader, type PackWriter } from '@usual-needle/host';

const MARK = Buffer.from('un-pack2');
/** The footer's length and checksum, and the mark. */
const END = 16;
/** A footer longer than this is none. */
const LONGEST_FOOTER = 64 * 1024 * 1024;
/** Room that is left on the disk, in bytes: what is derived never takes the last of it. */
const LEFT_FREE = 512 * 1024 * 1024;

/** Bytes that are looked at and written at once: whoever asks meanwhile waits no longer than for that. */
const WRITTEN_AT_ONCE = 1024 * 1024;

interface PackPiece {
  readonly at: number;
  readonly bytes: number;
  readonly crc: number;
}

/** The state of a table that its pack was made of. */
export interface PackedAs {
  readonly table: number;
  /** Number of the change that its cells are at least of, and when that was, as its log says. */
  readonly change: number;
  readonly at: string;
  readonly columns: readonly Column[];
}

interface Footer extends PackedAs {
  readonly engine: string;
  readonly parts: readonly { readonly numbers: PackPiece; readonly texts: PackPiece }[];
}

/** A pack of another engine is none: what is built may be another thing, or built another way. */
let ownEngine: Promise<string> | undefined;
const engineMark = (): Promise<string> =>
  (ownEngine ??= markOf(dirname(fileURLToPath(import.meta.resolve('@usual-needle/engine')))));

async function markOf(folder: string): Promise<string> {
  const hash = createHash('sha256').update(`${process.versions.unicode} ${process.arch}`);
  const files = (await readdir(folder, { recursive: true })).filter((file) => file.endsWith('.js')).sort();
  for (const file of files) hash.update(file).update(await readFile(join(folder, file)));
  return hash.digest('hex').slice(0, 32);
}

/** Writes a pack, whole or not at all. */
export class PackFile {
  private readonly parts: { numbers: PackPiece; texts: PackPiece }[] = [];
  private written = MARK.length;

  private constructor(
    private readonly path: string,
    private readonly file: FileHandle,
    private readonly half: string,
  ) {}

  /** @returns undefined where there is no room for it */
  static async begin(path: string): Promise<PackFile | undefined> {
    await mkdir(dirname(path), { recursive: true });
    const { bavail, bsize } = await statfs(dirname(path));
    if (bavail * bsize < LEFT_FREE) return undefined;
    const half = `${path}.${process.pid}.half`;
    const file = await open(half, 'w', 0o600);
    await file.writeFile(MARK);
    return new PackFile(path, file, half);
  }

  async add({ numberParts, textParts }: PackWriter): Promise<void> {
    this.parts.push({ numbers: await this.piece(numberParts), texts: await this.piece(textParts) });
  }

  private async piece(parts: readonly Uint8Array[]): Promise<PackPiece> {
    const at = this.written;
    let crc = 0;
    for (const some of cut(parts)) {
      crc = crc32(some, crc);
      await this.file.writeFile(some);
      this.written += some.byteLength;
    }
    return { at, bytes: this.written - at, crc };
  }

  async end(as: PackedAs): Promise<void> {
    const footer = Buffer.from(
      JSON.stringify({ ...as, engine: await engineMark(), parts: this.parts } satisfies Footer),
    );
    const end = Buffer.alloc(END);
    end.writeUInt32LE(footer.byteLength, 0);
    end.writeUInt32LE(crc32(footer), 4);
    MARK.copy(end, 8);
    await this.file.writeFile(Buffer.concat([footer, end]));
    await this.file.sync();
    await this.file.close();
    await rename(this.half, this.path).catch(async () => {
      // What is there is no file.
      await rm(this.path, { recursive: true, force: true });
      await rename(this.half, this.path);
    });
  }

  async abandon(): Promise<void> {
    await this.file.close().catch(() => undefined);
    await rm(this.half, { force: true });
  }
}

/** Cuts bytes into pieces of about one size: small ones put together, large ones taken apart. */
function* cut(parts: readonly Uint8Array[]): Generator<Uint8Array> {
  let small: Uint8Array[] = [];
  let size = 0;
  for (const part of parts) {
    for (let at = 0; at < part.byteLength; at += WRITTEN_AT_ONCE) {
      const some = part.subarray(at, at + WRITTEN_AT_ONCE);
      small.push(some);
      size += some.byteLength;
      if (size < WRITTEN_AT_ONCE) continue;
      yield Buffer.concat(small);
      small = [];
      size = 0;
    }
  }
  if (size > 0) yield Buffer.concat(small);
}

/** A pack that can be read; what it says of itself is to be held against the database. */
export class PackedTable {
  private constructor(
    private readonly file: FileHandle,
    private readonly footer: Footer,
  ) {}

  /** @returns undefined if there is none, or none that can be read */
  static async open(path: string): Promise<PackedTable | undefined> {
    const file = await open(path, 'r').catch(() => undefined);
    if (!file) return undefined;
    try {
      const { size } = await file.stat();
      const end = await piece(file, size - END, END);
      const [length, crc] = [end.readUInt32LE(0), end.readUInt32LE(4)];
      if (size < END + MARK.length || !end.subarray(8).equals(MARK) || length > LONGEST_FOOTER)
        throw new Error('no end');
      const text = await piece(file, size - END - length, length);
      if (crc32(text) !== crc) throw new Error('a damaged footer');
      const footer = JSON.parse(text.toString()) as Footer;
      if (footer.engine !== (await engineMark())) throw new Error('another engine');
      return new PackedTable(file, footer);
    } catch {
      await file.close();
      return undefined;
    }
  }

  get as(): PackedAs {
    return this.footer;
  }

  /** The last part: what is shared among the segments. */
  shared(): Promise<PackReader> {
    return this.part(this.footer.parts.length - 1);
  }

  async *segments(): AsyncGenerator<PackReader> {
    for (let i = 0; i < this.footer.parts.length - 1; i++) yield await this.part(i);
  }

  /** @throws if it is not what was written */
  private async part(at: number): Promise<PackReader> {
    const { numbers, texts } = this.footer.parts[at];
    const [first, second] = [await this.checked(numbers), await this.checked(texts)];
    return new PackReader(first.buffer, second);
  }

  private async checked({ at, bytes, crc }: PackPiece): Promise<Uint8Array<ArrayBuffer>> {
    const read = await piece(this.file, at, bytes);
    if (crc32(read) !== crc) throw new Error('a damaged part');
    return read;
  }

  async close(): Promise<void> {
    await this.file.close();
  }
}

/** Into memory of its own, which begins where the bytes do. */
async function piece(file: FileHandle, at: number, bytes: number): Promise<Buffer<ArrayBuffer>> {
  const read = Buffer.from(new ArrayBuffer(bytes));
  for (let done = 0; done < bytes;) {
    const { bytesRead } = await file.read(read, done, bytes - done, at + done);
    if (bytesRead === 0) throw new Error('cut off');
    done += bytesRead;
  }
  return read;
}
