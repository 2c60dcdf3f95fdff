/** The question of a box: its strands, what is typed into them, and all of it as the question that is sent. */
import type { Box, WireQuestion } from './box.js';

export type BoxStrand = NonNullable<Box['strands']>[number];

/** The strands of a box; there is always a first one, which finds. */
export function strandsOf(box: Box): readonly BoxStrand[] {
  const strands = box.strands ?? [];
  return strands[0]?.verb === 'find' ? strands : [{ verb: 'find', text: '' }, ...strands];
}

/** The box with another text in its first strand. */
export function withFirstText(box: Box, text: string): Box {
  return { ...box, strands: strandsOf(box).map((strand, i) => (i === 0 ? { ...strand, text } : strand)) };
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
