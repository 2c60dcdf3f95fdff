/** XML as it streams by (XML 1.0), with entities of its own left unread. */
import { SaxesParser } from 'saxes';
import { paused } from '../pauses.js';
import { FileProblem } from '../problem.js';

declare class TextDecoder {
  constructor(encoding: string, options: { fatal: boolean });
  decode(bytes?: Uint8Array, options?: { stream: boolean }): string;
}

/** Bytes of XML that are read at a time. */
const PIECE = 32 * 1024;

type Attributes = Readonly<Record<string, string>>;

export interface Handler {
  /** @param name as it is written, with its prefix */
  open?(name: string, attributes: Attributes): void;
  text?(text: string): void;
  close?(name: string): void;
}

/** Tells a handler what is read, piece by piece. */
function* walked(pieces: Iterable<Uint8Array>, handler: Handler): Generator<void> {
  const parser = new SaxesParser();
  const decoder = new TextDecoder('utf-8', { fatal: false });
  parser.on('error', () => {
    throw new FileProblem('The workbook is damaged: a part of it is not XML. Save it again.');
  });
  // A document type could make a little text a very long one.
  parser.on('doctype', () => {
    throw new FileProblem('The workbook holds a document type, which none needs.');
  });
  if (handler.open) parser.on('opentag', ({ name, attributes }) => handler.open!(name, attributes as Attributes));
  if (handler.text) parser.on('text', (text) => handler.text!(text));
  if (handler.close) parser.on('closetag', ({ name }) => handler.close!(name));
  let isThere = false;
  for (const piece of pieces) {
    isThere = true;
    // A little that was packed may be much: it is read in pieces, between which others have their turn.
    for (let at = 0; at < piece.length; at += PIECE) {
      parser.write(decoder.decode(piece.subarray(at, at + PIECE), { stream: true }));
      yield;
    }
    yield;
  }
  // A part that is not there says nothing, which most parts may.
  if (isThere) parser.close();
}

/** Gives what a handler puts into `found`, piece by piece, so that no more of it is held; undefined where nothing has come of a piece. */
export function* gathered<T>(
  pieces: Iterable<Uint8Array>,
  handler: Handler,
  found: T[],
): Generator<T | undefined, void, undefined> {
  const steps = walked(pieces, handler);
  while (!steps.next().done) {
    yield* found.splice(0);
    yield undefined;
  }
  yield* found.splice(0);
}

/** Reads it to its end, resting now and then. */
export function read(pieces: Iterable<Uint8Array>, handler: Handler): Promise<void> {
  return paused(walked(pieces, handler));
}

/** The name of an element without its prefix. */
export function local(name: string): string {
  return name.slice(name.indexOf(':') + 1);
}
