/** The question of a box: its strands, what is typed into them, and all of it as the question that is sent. */
import { EMPTY_BOX, type Box, type Column, type WireQuestion } from '@usual-needle/contract';

export type BoxStrand = NonNullable<Box['strands']>[number];

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

/** The strands of a box; there is always a first one, which finds. */
export function strandsOf(box: Box): readonly BoxStrand[] {
  const strands = box.strands ?? [];
  return strands[0]?.verb === 'find' ? strands : [{ verb: 'find', text: '' }, ...strands];
}

/** Gives what is typed into the first strand. */
export function firstText(box: Box): string {
  return strandsOf(box)[0].text;
}

/** The box with another text in its first strand. */
export function withFirstText(box: Box, text: string): Box {
  return withStrand(box, 0, (first) => ({ ...first, text }));
}

/** The box with one of its strands edited. */
export function withStrand(box: Box, at: number, edit: (strand: BoxStrand) => BoxStrand): Box {
  return { ...box, strands: strandsOf(box).map((strand, i) => (i === at ? edit(strand) : strand)) };
}

/** The box with nothing typed, and not flipped. */
export function withoutTexts(box: Box): Box {
  return { ...box, flip: undefined, strands: strandsOf(box).map((strand) => ({ ...strand, text: '' })) };
}

/** Gives what a box asks of its table. */
export function questionOf(box: Box): WireQuestion {
  const { need, where, case: letters, accents, effect, nothingTyped, reading, flip, pickers, sort, threaded } = box;
  return {
    threaded: box.everyColumn ? [] : [...(threaded ?? [])],
    ...(box.everyColumn && { everyColumn: true }),
    strands: [...strandsOf(box)],
    need,
    where,
    case: letters,
    accents,
    effect,
    nothingTyped,
    reading,
    flip,
    pickers,
    sort,
  };
}
