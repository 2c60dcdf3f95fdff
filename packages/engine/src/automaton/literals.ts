/** Required literals: text that every hit of a pattern contains, found in its tree, for the index to look up first. */
import { ANY_RUN, ONE_CHARACTER, type PatternNode } from '../notation/index.js';
import { fold, LOOSE } from '../text/index.js';

/** Pieces without spaces, loosely folded, each of which lies within one token of any cell that contains the text. */
export function piecesOf(text: string): string[] {
  return fold(text, LOOSE)
    .split(' ')
    .filter((piece) => piece !== '');
}

/** Texts of which every hit contains one of each group. */
type Groups = string[][];

/** Adds what a node requires; `run` is the text that has just been read for certain. @returns the new run */
function runs(node: PatternNode, found: Groups, run: string): string {
  const end = (): string => {
    if (run !== '') found.push([run]);
    return '';
  };
  switch (node.type) {
    case 'character':
      return run + String.fromCodePoint(node.codePoint);
    case 'assert':
      return run;
    case 'sequence':
      for (const part of node.of) run = runs(part, found, run);
      return run;
    case 'choice': {
      run = end();
      const ways = node.of.map((part) => longest(groupsOf(part)));
      if (ways.every((way) => way !== undefined)) found.push(ways.flat());
      return '';
    }
    case 'repeat':
      run = end();
      if (node.min > 0) run = runs(node.of, found, '');
      return end();
    default:
      return end();
  }
}

function groupsOf(tree: PatternNode): Groups {
  const found: Groups = [];
  const last = runs(tree, found, '');
  if (last !== '') found.push([last]);
  return found
    .map((group) => group.flatMap((text) => longest(piecesOf(text).map((piece) => [piece])) ?? ['']))
    .filter((group) => !group.includes(''));
}

/** The group whose shortest text is longest: the one that rules most out. */
function longest(groups: Groups): string[] | undefined {
  const shortest = (group: string[]): number => Math.min(...group.map(({ length }) => length));
  return groups.reduce<string[] | undefined>(
    (best, group) => (best && shortest(best) >= shortest(group) ? best : group),
    undefined,
  );
}

/** Groups of pieces: every hit of the pattern contains one piece of each. */
export function requiredPieces(tree: PatternNode): string[][] {
  return groupsOf(tree);
}

/** Does what `requiredPieces` does, of a wildcard's template. */
export function wildcardPieces(template: string): string[][] {
  return template
    .split(new RegExp(`[${ANY_RUN}${ONE_CHARACTER}]`, 'u'))
    .flatMap(piecesOf)
    .map((piece) => [piece]);
}
