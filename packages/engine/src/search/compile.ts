/** From a tree to matchers: every hit of the tree gets the matcher of its term and the columns it looks in. */
import { fold } from '../text/index.js';
import type { Node, Settings, Term } from '../notation/index.js';
import type { Matcher } from './matcher.js';
import { TextMatcher } from './text-matcher.js';

export type Plan =
  | { readonly type: 'hit'; readonly matcher: Matcher; readonly columns: readonly number[]; readonly keyword: number }
  | { readonly type: 'all' | 'any'; readonly of: readonly Plan[] }
  | { readonly type: 'not'; readonly of: Plan };

/** A text that folds to nothing asks nothing, and so has no matcher. */
export function matcherOf(term: Term, settings: Settings): Matcher | undefined {
  switch (term.type) {
    case 'text':
      return fold(term.text, settings) === '' ? undefined : new TextMatcher(term.text, term.where, settings);
    default:
      throw new Error(`no matcher for ${term.type}`);
  }
}

/** @param threaded columns that hits without a scope look in */
export function compile(node: Node, settings: Settings, threaded: readonly number[]): Plan | undefined {
  switch (node.type) {
    case 'hit': {
      const matcher = matcherOf(node.term, settings);
      return matcher && { type: 'hit', matcher, columns: node.columns ?? threaded, keyword: node.keyword };
    }
    case 'not': {
      const of = compile(node.of, settings, threaded);
      return of && { type: 'not', of };
    }
    default: {
      const of = node.of.map((part) => compile(part, settings, threaded)).filter((part) => part !== undefined);
      return of.length === 0 ? undefined : of.length === 1 ? of[0] : { type: node.type, of };
    }
  }
}
