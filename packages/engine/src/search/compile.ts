/** Compiles a tree to matchers: every hit of the tree gets the matcher of its term and the columns it looks in. */
import { fold } from '../text/index.js';
import type { Node, Settings, Term } from '../notation/index.js';
import type { Matcher } from './matchers/matcher.js';
import { NearMatcher } from './matchers/near-matcher.js';
import { PatternMatcher } from './matchers/pattern-matcher.js';
import { TextMatcher } from './matchers/text-matcher.js';
import {
  BlankMatcher,
  FilledMatcher,
  IntervalMatcher,
  NothingMatcher,
  TextIntervalMatcher,
} from './matchers/value-matchers.js';
import { WildcardMatcher } from './matchers/wildcard-matcher.js';

export type Plan =
  | { readonly type: 'hit'; readonly matcher: Matcher; readonly columns: readonly number[]; readonly keyword: number }
  | { readonly type: 'all' | 'any'; readonly of: readonly Plan[] }
  | { readonly type: 'not'; readonly of: Plan };

/**
 * A text that folds to nothing asks nothing, and so has no matcher.
 * @throws TooLarge
 */
export function matcherOf(term: Term, settings: Settings): Matcher | undefined {
  // Matchers are alike if their settings are: the parts that do not bear on them are left behind.
  const setting = { case: settings.case, accents: settings.accents };
  switch (term.type) {
    case 'text':
      return fold(term.text, setting) === '' ? undefined : new TextMatcher(term.text, term.where, setting);
    case 'wildcard':
      return fold(term.template, setting) === '' ? undefined : new WildcardMatcher(term.template, term.where, setting);
    case 'near':
      return fold(term.word, setting) === '' ? undefined : new NearMatcher(term.word, setting);
    case 'pattern':
      return new PatternMatcher(term.source, setting);
    case 'blank':
      return new BlankMatcher();
    case 'filled':
      return new FilledMatcher();
    case 'interval':
      return new IntervalMatcher(term.interval);
    case 'text interval':
      return new TextIntervalMatcher(term.interval);
    case 'nothing':
      return new NothingMatcher();
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
