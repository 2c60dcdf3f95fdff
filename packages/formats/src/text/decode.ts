/** Decodes bytes to text, chunk by chunk, in the encoding that they are in. */
import type { Encoding, FileChoices } from '@usual-needle/contract';
import { joined } from '../bytes.js';
import type { TakeNote } from '../notes.js';
import { FileProblem } from '../problem.js';

declare class TextDecoder {
  constructor(encoding: string, options: { fatal: boolean; ignoreBOM: boolean });
  decode(bytes?: Uint8Array, options?: { stream: boolean }): string;
}

/** Names as people know them. */
export const ENCODING_NAMES: Readonly<Record<Encoding, string>> = {
  'utf-8': 'UTF-8',
  'utf-16le': 'UTF-16 LE',
  'utf-16be': 'UTF-16 BE',
  'windows-1252': 'Windows-1252',
  'iso-8859-1': 'ISO-8859-1',
  'iso-8859-15': 'ISO-8859-15',
};

/** Bytes that tell UTF-16 by their zeros. */
const LOOKED_AT = 4096;

/** The encoding that the beginning of a file tells, by its mark or its zeros; undefined if it does not. */
export function markedEncoding(head: Uint8Array): Encoding | undefined {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  if (head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf) return 'utf-8';
  const looked = head.subarray(0, LOOKED_AT);
  const zeros = [0, 0];
  looked.forEach((byte, i) => (zeros[i & 1] += byte === 0 ? 1 : 0));
  const most = looked.length * 0.3;
  if (zeros[1] > most && zeros[0] < most / 4) return 'utf-16le';
  if (zeros[0] > most && zeros[1] < most / 4) return 'utf-16be';
  return undefined;
}

/** Length of the letter that a byte of UTF-8 begins; 1 for what begins none. */
function letterLength(byte: number): number {
  return byte >= 0xf0 ? 4 : byte >= 0xe0 ? 3 : byte >= 0xc0 ? 2 : 1;
}

/** Finds where the last letter starts, if it is cut short; else the end. RFC 3629. */
function wholeLetters(bytes: Uint8Array): number {
  for (let back = 1; back <= Math.min(3, bytes.length); back++) {
    const byte = bytes[bytes.length - back];
    if ((byte & 0xc0) === 0x80) continue;
    return letterLength(byte) > back ? bytes.length - back : bytes.length;
  }
  return bytes.length;
}

function lineBreaksIn(text: string): number {
  let count = 0;
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) count++;
  return count;
}

function latin1(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return text;
}

/**
 * Decodes UTF-8 until something is not: where all before was ASCII, which is the same in all of them, the rest is read as
 * Windows-1252. So the encoding is found from the whole file without holding it.
 */
export class Decoder {
  /** The encoding of the file, as far as it has been read. */
  encoding: Encoding;
  private settled: boolean;
  private stream: TextDecoder | undefined;
  private held = new Uint8Array(0);
  private line = 1;
  private first = true;

  /** @param head the beginning of the file */
  constructor(
    head: Uint8Array,
    private readonly choices: FileChoices,
    private readonly notice?: TakeNote,
  ) {
    const known = choices.encoding ?? markedEncoding(head);
    this.encoding = known ?? 'utf-8';
    this.settled = known !== undefined;
  }

  /** @param end no more comes after this. @throws FileProblem for bytes that are not of the encoding */
  decode(chunk: Uint8Array, end: boolean): string {
    let text = this.encoding === 'utf-8' ? this.decodeUtf8(chunk, end) : this.decodeOther(chunk, end);
    this.line += lineBreaksIn(text);
    if (this.first && text !== '') {
      this.first = false;
      if (text.charCodeAt(0) === 0xfeff) text = text.slice(1);
    }
    return text;
  }

  private decodeUtf8(chunk: Uint8Array, end: boolean): string {
    const bytes = joined([this.held, chunk]);
    const until = end ? bytes.length : wholeLetters(bytes);
    this.held = bytes.slice(until);
    const whole = bytes.subarray(0, until);
    try {
      const text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(whole);
      if (!this.settled && text.length !== whole.length) this.settled = true;
      return text;
    } catch {
      if (!this.settled && !this.beginsAsUtf8(whole)) {
        this.encoding = 'windows-1252';
        this.settled = true;
        this.held = new Uint8Array(0);
        return this.decodeOther(bytes, end);
      }
      const text = new TextDecoder('utf-8', { fatal: false, ignoreBOM: true }).decode(whole);
      const line = this.line + lineBreaksIn(text.slice(0, text.indexOf('\ufffd')));
      this.foreign(line);
      for (let at = text.indexOf('\ufffd'); at >= 0; at = text.indexOf('\ufffd', at + 1))
        this.notice?.({ what: 'bytes', line, example: text.slice(Math.max(0, at - 10), at + 10) });
      return text;
    }
  }

  /** True if the first letter beyond ASCII is one of UTF-8. */
  private beginsAsUtf8(bytes: Uint8Array): boolean {
    const at = bytes.findIndex((byte) => byte >= 0x80);
    const length = letterLength(bytes[at]);
    if (length === 1) return false;
    for (let i = 1; i < length; i++) if (((bytes[at + i] ?? 0) & 0xc0) !== 0x80) return false;
    return true;
  }

  private decodeOther(chunk: Uint8Array, end: boolean): string {
    if (this.encoding === 'iso-8859-1') return latin1(chunk);
    const fatal = this.choices.unkeepable !== 'mend';
    this.stream ??= new TextDecoder(this.encoding, { fatal, ignoreBOM: true });
    try {
      return this.stream.decode(chunk, { stream: !end });
    } catch {
      this.foreign(this.line);
      return '';
    }
  }

  private foreign(line: number): void {
    if (this.choices.unkeepable === 'mend') return;
    const name = ENCODING_NAMES[this.encoding];
    throw new FileProblem(
      `There are bytes that are not ${name}, first at line ${line}. Say its encoding, or save it as UTF-8.`,
      line,
    );
  }
}

/** The text of a file, whose encoding is known once all of it has been read. */
export async function* decoded(bytes: AsyncIterable<Uint8Array>, decoder: Decoder): AsyncGenerator<string> {
  for await (const chunk of bytes) yield decoder.decode(chunk, false);
  yield decoder.decode(new Uint8Array(0), true);
}
