/** Required literals: text that every hit of a pattern contains, found in its tree, for the index to look up first. */
import { ANY_RUN, ONE_CHARACTER, type PatternNode } from '../notation/index.js';
import { fold, LOOSE } from '../text/index.js';

/** Pieces without spaces, loosely folded, each of which lies within one token of any cell that contains the text. */
export function piecesOf(text: string): string[] {
  return fold(text, LOOSE).split(' ').filter((piece) => piece !== ''); // prettier-ignore
}

function runs(node: PatternNode, found: string[], run: string): string {
  const end = (): string => {
    if (run !== '') found.push(run);
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
    case 'repeat':
      run = end();
      if (node.min > 0) run = runs(node.of, found, '');
      return end();
    default:
      return end();
  }
}

export function requiredPieces(tree: PatternNode): string[] {
  const found: string[] = [];
  const last = runs(tree, found, '');
  if (last !== '') found.push(last);
  return found.flatMap(piecesOf);
}

/** As `requiredPieces`, of a wildcard's template. */
export function wildcardPieces(template: string): string[] {
  return template.split(new RegExp(`[${ANY_RUN}${ONE_CHARACTER}]`, 'u')).flatMap(piecesOf);
}
