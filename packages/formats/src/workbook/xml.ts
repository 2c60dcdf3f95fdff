/** XML as it streams by (XML 1.0), with entities of its own left unread. */
import { SaxesParser } from 'saxes';
import { FileProblem } from '../problem.js';

declare class TextDecoder {
  constructor(encoding: string, options: { fatal: boolean });
  decode(bytes?: Uint8Array, options?: { stream: boolean }): string;
}

export type Attributes = Readonly<Record<string, string>>;

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
  for (const piece of pieces) {
    parser.write(decoder.decode(piece, { stream: true }));
    yield;
  }
  parser.close();
}

/** What a handler puts into `found`, piece by piece, so that no more of it is held. */
export function* gathered<T>(pieces: Iterable<Uint8Array>, handler: Handler, found: T[]): Generator<T> {
  const steps = walked(pieces, handler);
  while (!steps.next().done) yield* found.splice(0);
  yield* found.splice(0);
}

/** Reads it to its end. */
export function read(pieces: Iterable<Uint8Array>, handler: Handler): void {
  const steps = walked(pieces, handler);
  while (!steps.next().done);
}

/** The name of an element without its prefix. */
export function local(name: string): string {
  return name.slice(name.indexOf(':') + 1);
}
