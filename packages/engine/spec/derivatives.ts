/**
 * A second machine for patterns, to hold the engine against: it shares nothing with it, not even the reading of the source.
 * A pattern is a tree; reading a letter turns it into the set of trees that may follow. Each letter costs at most one look at
 * every part of the tree, so it is linear in the text as well.
 *
 * Source: V. Antimirov, "Partial derivatives of regular expressions and finite automaton constructions", TCS 155(2), 1996.
 */
export type Tree =
  | { readonly is: 'nothing' }
  | { readonly is: 'letter'; readonly of: string; readonly not: boolean }
  | { readonly is: 'then'; readonly first: Tree; readonly rest: Tree }
  | { readonly is: 'either'; readonly one: Tree; readonly other: Tree }
  | { readonly is: 'again'; readonly of: Tree };

const NOTHING: Tree = { is: 'nothing' };

/** The tree as a pattern that both engines read. */
export function written(tree: Tree): string {
  switch (tree.is) {
    case 'nothing':
      return '(?:)';
    case 'letter':
      return `[${tree.not ? '^' : ''}${tree.of}]`;
    case 'then':
      return written(tree.first) + written(tree.rest);
    case 'either':
      return `(?:${written(tree.one)}|${written(tree.other)})`;
    case 'again':
      return `(?:${written(tree.of)})*`;
  }
}

function takesNothing(tree: Tree): boolean {
  switch (tree.is) {
    case 'letter':
      return false;
    case 'then':
      return takesNothing(tree.first) && takesNothing(tree.rest);
    case 'either':
      return takesNothing(tree.one) || takesNothing(tree.other);
    default:
      return true;
  }
}

function then(first: Tree, rest: Tree): Tree {
  return first.is === 'nothing' ? rest : { is: 'then', first, rest };
}

function after(tree: Tree, letter: string): Tree[] {
  switch (tree.is) {
    case 'nothing':
      return [];
    case 'letter':
      return tree.of.includes(letter) === tree.not ? [] : [NOTHING];
    case 'then': {
      const ways = after(tree.first, letter).map((one) => then(one, tree.rest));
      return takesNothing(tree.first) ? [...ways, ...after(tree.rest, letter)] : ways;
    }
    case 'either':
      return [...after(tree.one, letter), ...after(tree.other, letter)];
    case 'again':
      return after(tree.of, letter).map((one) => then(one, tree));
  }
}

/** Whether the tree stands somewhere in the text. */
export function standsIn(tree: Tree, text: string): boolean {
  let trees = new Map<string, Tree>();
  for (const letter of ['', ...text]) {
    const next = new Map([[JSON.stringify(tree), tree]]);
    if (letter !== '') {
      for (const one of trees.values()) for (const way of after(one, letter)) next.set(JSON.stringify(way), way);
    }
    trees = next;
    if ([...trees.values()].some(takesNothing)) return true;
  }
  return false;
}
