/** A box as it is built: new, with another text, or with nothing typed. */
import {
  EMPTY_BOX,
  questionOf,
  strandsOf,
  withFirstText,
  type Box,
  type BoxStrand,
  type Column,
} from '@usual-needle/contract';

export { questionOf, strandsOf, withFirstText, type BoxStrand };

/** Gives a value as it is written: a setting that is undefined is not there. */
export function plain<T>(value: T): T {
  return value === undefined ? value : (JSON.parse(JSON.stringify(value)) as T);
}

/** Columns that a new box searches. */
function textual(columns: readonly Column[]): string[] {
  return columns.filter(({ kind }) => kind === 'text' || kind === 'choice').map(({ name }) => name);
}

/** A box that nobody has built yet, on a table of such columns. */
export function newBox(columns: readonly Column[]): Box {
  return { threaded: textual(columns), ...EMPTY_BOX };
}

/** Gives what is typed into the first strand. */
export function firstText(box: Box): string {
  return strandsOf(box)[0].text;
}

/** The box with one of its strands edited. */
export function withStrand(box: Box, at: number, edit: (strand: BoxStrand) => BoxStrand): Box {
  return { ...box, strands: strandsOf(box).map((strand, i) => (i === at ? edit(strand) : strand)) };
}

/** The box with nothing typed, and not flipped. */
export function withoutTexts(box: Box): Box {
  return { ...box, flip: undefined, strands: strandsOf(box).map((strand) => ({ ...strand, text: '' })) };
}
