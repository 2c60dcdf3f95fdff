import { ownText } from '@usual-needle/engine';

/** A thing noticed while a file was read, and mended or fine as it is. */
export type NoteKind =
  | 'tooMany'
  | 'tooFew'
  | 'nul'
  | 'half letter'
  | 'tooLong'
  | 'line break'
  | 'header'
  | 'bytes'
  | 'twice'
  | 'spaces'
  | 'repeated';

export interface Note {
  readonly what: NoteKind;
  /** Line of a text, or row of a sheet or a list, from 1. */
  readonly line: number;
  /** The text that it is about, short enough to be told. */
  readonly example: string;
}

/** Takes the notes of whoever reads a file. */
export type TakeNote = (note: Note) => void;

const EXAMPLE = 60;

export function shortened(text: string): string {
  return ownText(text.length > EXAMPLE ? `${text.slice(0, EXAMPLE)}…` : text);
}
