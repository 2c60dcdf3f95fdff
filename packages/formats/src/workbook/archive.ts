/** The parts of a workbook, which is a ZIP archive (ISO/IEC 21320-1): unpacked one at a time, and never more than is allowed. */
import { Unzip, UnzipInflate } from 'fflate';
import { LIMITS } from '@usual-needle/contract';
import { paused } from '../pauses.js';
import { FileProblem } from '../problem.js';

/** Bytes unpacked at a time: a thousand times as many may come of them. */
const SLICE = 1024;

export class Archive {
  names: readonly string[] = [];
  private unpacked = 0;

  private constructor(private readonly bytes: Uint8Array) {}

  /** @throws FileProblem if it is damaged */
  static async open(bytes: Uint8Array): Promise<Archive> {
    const archive = new Archive(bytes);
    const names: string[] = [];
    await paused(
      archive.unzipped(({ name }) => {
        names.push(name);
        return undefined;
      }),
    );
    archive.names = names;
    return archive;
  }

  /** Goes through all parts, a slice at a time. @param take what is given the pieces of a part, if it is wanted */
  private *unzipped(take: (part: { name: string }) => ((piece: Uint8Array) => void) | undefined): Generator<void> {
    const unzip = new Unzip((part) => {
      const put = take(part);
      if (!put) return;
      part.ondata = (error, piece) => {
        if (error) throw error;
        this.unpacked += piece.length;
        if (this.unpacked > LIMITS.workbookUnpacked)
          throw new FileProblem(`The workbook unpacks to more than ${LIMITS.workbookUnpacked / 1024 / 1024} MB.`);
        put(piece);
      };
      part.start();
    });
    unzip.register(UnzipInflate);
    for (let at = 0; at < this.bytes.length; at += SLICE) {
      try {
        unzip.push(this.bytes.subarray(at, at + SLICE), at + SLICE >= this.bytes.length);
      } catch (error) {
        throw problemOf(error);
      }
      yield;
    }
  }

  /** A part, piece by piece, an empty one where none has come of a slice; nothing if there is no such part. @throws FileProblem */
  *part(name: string): Generator<Uint8Array> {
    if (!this.names.includes(name)) return;
    const pieces: Uint8Array[] = [];
    const steps = this.unzipped((part) => (part.name === name ? (piece) => pieces.push(piece) : undefined));
    while (!steps.next().done) yield* pieces.length > 0 ? pieces.splice(0) : [NOTHING];
    yield* pieces.splice(0);
  }
}

const NOTHING = new Uint8Array(0);

function problemOf(error: unknown): unknown {
  if (error instanceof FileProblem) return error;
  return new FileProblem('The workbook is damaged or cut short. Save it again.');
}
