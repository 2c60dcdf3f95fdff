/** Compiles a wildcard's folded template to a program: `*` takes as little as it can, `?` one character as shown. */
import { ANY_RUN, LAST_CODE_POINT, ONE_CHARACTER, type Where } from '../notation/index.js';
import { Look, Op, ProgramBuilder, type End, type Program } from './program.js';

function lookAtStart(where: Where): Look | undefined {
  if (where === 'start of the cell' || where === 'whole cell') return Look.Start;
  return where === 'start of a word' || where === 'whole word' ? Look.WordEdge : undefined;
}

function lookAtEnd(where: Where): Look | undefined {
  if (where === 'end of the cell' || where === 'whole cell') return Look.End;
  return where === 'whole word' ? Look.WordEdge : undefined;
}

/**
 * @param template folded; see `ANY_RUN` and `ONE_CHARACTER`
 * @param edges a hit begins and ends where a character of the shown text does: with accents respected
 * @throws TooLarge
 */
export function compileWildcard(template: string, where: Where, edges: boolean): Program {
  return compile(template, where, edges, true);
}

/** Does what `compileWildcard` does, of a text in which no character is a sign. */
export function compileText(folded: string, where: Where, edges: boolean): Program {
  return compile(folded, where, edges, false);
}

function compile(template: string, where: Where, edges: boolean, hasSigns: boolean): Program {
  const builder = new ProgramBuilder();
  let ends: End[] = [];
  let start = -1;
  const put = (instruction: number, ...next: End[]): void => {
    if (start < 0) start = instruction;
    builder.connect(ends, instruction);
    ends = next;
  };
  const look = (what: Look | undefined): void => {
    if (what === undefined) return;
    const instruction = builder.add(Op.Assert, what);
    put(instruction, builder.end(instruction));
  };
  const edge = edges ? Look.Character : undefined;
  look(edge);
  look(lookAtStart(where));
  const signs = [...template];
  signs.forEach((sign, i) => {
    if (hasSigns && sign === ANY_RUN) {
      if (signs[i - 1] === ANY_RUN) return;
      const split = builder.add(Op.Split);
      const read = builder.add(Op.Read, builder.set([[0, LAST_CODE_POINT]]), split);
      builder.connect([builder.end(split)], read);
      put(split, builder.end(split, true));
    } else if (hasSigns && sign === ONE_CHARACTER) {
      const first = builder.add(Op.ReadFirst);
      const split = builder.add(Op.Split);
      const inside = builder.add(Op.ReadInside, 0, split);
      const past = builder.add(Op.Assert, Look.Character);
      builder.connect([builder.end(first)], split);
      builder.connect([builder.end(split, true)], inside);
      builder.connect([builder.end(split)], past);
      put(first, builder.end(past));
    } else {
      const codePoint = sign.codePointAt(0)!;
      const read = builder.add(Op.Read, builder.set([[codePoint, codePoint]]));
      put(read, builder.end(read));
    }
  });
  look(lookAtEnd(where));
  look(edge);
  const match = builder.add(Op.Match);
  put(match);
  return builder.done(start);
}
