/**
 * Patterns: the part of the ECMAScript regular expression syntax that can be matched in time linear in the text, parsed to
 * a tree by code points. Look-around and back-references are refused, since they cannot.
 *
 * Source: ECMA-262, 22.2.1 Patterns (with the `u` flag), and from Annex B only the literal reading of a stray `]`, `{`, `}`.
 */
import {
  DIGIT,
  LAST_CODE_POINT,
  LINE_BREAK,
  normalRanges,
  otherRanges,
  SPACE,
  WORD,
  type CodeRange,
} from './code-ranges.js';
import { LIMITS } from './limits.js';
import type { Notice } from './tree.js';

/** A character of a set. What is written out is open to case folding; what an escape names never is. */
export interface CharacterSet {
  readonly written: readonly CodeRange[];
  readonly named: readonly CodeRange[];
  /** Unicode properties, `\p` or (not) `\P`; which characters have them is for whoever compiles the pattern. */
  readonly properties: readonly Property[];
  readonly negated: boolean;
}

export interface Property {
  readonly name: string;
  readonly not: boolean;
}

export type PatternNode =
  | { readonly type: 'character'; readonly codePoint: number }
  | { readonly type: 'set'; readonly set: CharacterSet }
  | { readonly type: 'sequence'; readonly of: readonly PatternNode[] }
  | { readonly type: 'choice'; readonly of: readonly PatternNode[] }
  | {
      readonly type: 'repeat';
      readonly of: PatternNode;
      readonly min: number;
      readonly max: number;
      readonly lazy: boolean;
    }
  | { readonly type: 'assert'; readonly what: 'start' | 'end' | 'boundary' | 'no boundary' };

const CONTROL: Readonly<Record<string, number>> = { t: 9, n: 10, v: 11, f: 12, r: 13 };

/** Tells whether the platform knows a Unicode property of that name. */
function isProperty(name: string): boolean {
  try {
    new RegExp(`\\p{${name}}`, 'u');
    return true;
  } catch {
    return false;
  }
}

class Refusal {
  constructor(readonly problem: Notice) {}
}

const DOT: CharacterSet = { written: [], named: otherRanges(LINE_BREAK), properties: [], negated: false };
/** More brackets than this, one in the other, cannot all be closed within a pattern's length. */
const DEEPEST = LIMITS.pattern / 2;

class PatternParser {
  private at = 0;
  private depth = 0;

  constructor(private readonly source: string) {}

  parse(): PatternNode {
    const node = this.choice();
    if (this.is(')')) this.refuse('This bracket closes nothing; write \\) for a bracket.', this.at, this.at + 1);
    return node;
  }

  private refuse(message: string, start: number, end = this.source.length): never {
    throw new Refusal({ kind: 'refused', message, start, end: Math.min(end, this.source.length) });
  }

  private get done(): boolean {
    return this.at >= this.source.length;
  }

  private is(text: string): boolean {
    return this.source.startsWith(text, this.at);
  }

  private take(text: string): boolean {
    if (!this.is(text)) return false;
    this.at += text.length;
    return true;
  }

  private choice(): PatternNode {
    const of = [this.sequence()];
    while (this.take('|')) of.push(this.sequence());
    return of.length === 1 ? of[0] : { type: 'choice', of };
  }

  private sequence(): PatternNode {
    const of: PatternNode[] = [];
    while (!this.done && !this.is('|') && !this.is(')')) of.push(this.repeated());
    return of.length === 1 ? of[0] : { type: 'sequence', of };
  }

  private repeated(): PatternNode {
    const start = this.at;
    const node = this.atom();
    const bounds = this.bounds();
    if (!bounds) return node;
    if (node.type === 'assert') this.refuse('There is nothing here to repeat.', start, this.at);
    const lazy = this.take('?');
    const next = this.at;
    if (this.bounds()) this.refuse('A repeat cannot be repeated; put brackets around it.', next, this.at);
    return { type: 'repeat', of: node, ...bounds, lazy };
  }

  private bounds(): { min: number; max: number } | undefined {
    if (this.take('*')) return { min: 0, max: Infinity };
    if (this.take('+')) return { min: 1, max: Infinity };
    if (this.take('?')) return { min: 0, max: 1 };
    const match = /^\{(\d+)(?:(,)(\d*))?\}/.exec(this.source.slice(this.at, this.at + 40));
    if (!match) return undefined;
    const start = this.at;
    this.at += match[0].length;
    const min = Number(match[1]);
    const max = match[2] === undefined ? min : match[3] === '' ? Infinity : Number(match[3]);
    if (max < min) this.refuse(`The numbers in ${match[0]} are the wrong way round.`, start, this.at);
    if (min > LIMITS.repeat || (max !== Infinity && max > LIMITS.repeat)) {
      this.refuse('A repeat can be counted up to 1,000.', start, this.at);
    }
    return { min, max };
  }

  private atom(): PatternNode {
    const start = this.at;
    if (this.is('(')) return this.group();
    if (this.is('[')) return this.class();
    if (this.take('^')) return { type: 'assert', what: 'start' };
    if (this.take('$')) return { type: 'assert', what: 'end' };
    if (this.take('.')) return { type: 'set', set: DOT };
    if (this.take('\\')) return this.escape(start);
    if (this.is('*') || this.is('+') || this.is('?') || this.bounds()) {
      this.refuse('There is nothing here to repeat.', start, Math.max(this.at, start + 1));
    }
    return { type: 'character', codePoint: this.character() };
  }

  private character(): number {
    const codePoint = this.source.codePointAt(this.at)!;
    this.at += codePoint > 0xffff ? 2 : 1;
    return codePoint;
  }

  private group(): PatternNode {
    const start = this.at;
    this.at++;
    if (this.is('?')) {
      if (/^\?<?[=!]/.test(this.source.slice(this.at))) {
        this.refuse(
          'Looking ahead or behind cannot be done in linear time and is not part of patterns here.',
          start,
          this.at + 2,
        );
      }
      const named = /^\?<([\p{L}_$][\p{L}\p{N}_$]*)>/u.exec(this.source.slice(this.at));
      if (named) this.at += named[0].length;
      else if (!this.take('?:'))
        this.refuse('These brackets start with a sign that means nothing here.', start, this.at + 2);
    }
    if (++this.depth > DEEPEST) this.refuse('This bracket is not closed.', start, start + 1);
    const node = this.choice();
    this.depth--;
    if (!this.take(')')) this.refuse('This bracket is not closed.', start, start + 1);
    return node.type === 'sequence' || node.type === 'choice' ? node : { type: 'sequence', of: [node] };
  }

  private escape(start: number): PatternNode {
    if (this.take('b')) return { type: 'assert', what: 'boundary' };
    if (this.take('B')) return { type: 'assert', what: 'no boundary' };
    if (/^[1-9]|^k</.test(this.source.slice(this.at))) {
      this.refuse(
        'Referring back to a group cannot be done in linear time and is not part of patterns here.',
        start,
        this.at + 1,
      );
    }
    const named = this.namedClass(start);
    if (named) return { type: 'set', set: { written: [], ...named, negated: false } };
    return { type: 'character', codePoint: this.escapedCharacter(start) };
  }

  /** `\d \w \s`, their opposites, and properties; undefined if something else follows the backslash. */
  private namedClass(start: number): Pick<CharacterSet, 'named' | 'properties'> | undefined {
    const letter = this.source[this.at];
    const base = letter === undefined ? undefined : { d: DIGIT, w: WORD, s: SPACE }[letter.toLowerCase()];
    if (base) {
      this.at++;
      return { named: letter === letter.toLowerCase() ? base : otherRanges(base), properties: [] };
    }
    if (letter !== 'p' && letter !== 'P') return undefined;
    const match = /^[pP]\{([A-Za-z_]+(?:=[A-Za-z0-9_]+)?)\}/.exec(this.source.slice(this.at));
    const end = match ? this.at + match[0].length : this.at + 1;
    if (!match || !isProperty(match[1])) this.refuse(`There is no property of letters of that name.`, start, end);
    this.at = end;
    return { named: [], properties: [{ name: match[1], not: letter === 'P' }] };
  }

  private escapedCharacter(start: number): number {
    if (this.done) this.refuse('A backslash stands at the end with nothing after it.', start);
    const rest = this.source.slice(this.at, this.at + 12);
    const hex =
      /^x([0-9a-fA-F]{2})/.exec(rest) ?? /^u\{0*([0-9a-fA-F]{1,6})\}/.exec(rest) ?? /^u([0-9a-fA-F]{4})/.exec(rest);
    if (hex) {
      this.at += hex[0].length;
      let codePoint = parseInt(hex[1], 16);
      const low =
        codePoint >= 0xd800 &&
        codePoint <= 0xdbff &&
        /^\\u([dD][c-fC-F][0-9a-fA-F]{2})/.exec(this.source.slice(this.at));
      if (low && hex[0].length === 5) {
        this.at += 6;
        codePoint = 0x10000 + ((codePoint - 0xd800) << 10) + (parseInt(low[1], 16) - 0xdc00);
      }
      if (codePoint > LAST_CODE_POINT) this.refuse('There is no character of that number.', start, this.at);
      return codePoint;
    }
    const control = /^c([A-Za-z])/.exec(rest);
    if (control) {
      this.at += 2;
      return control[1].charCodeAt(0) % 32;
    }
    const letter = rest[0];
    if (letter in CONTROL) {
      this.at++;
      return CONTROL[letter];
    }
    if (letter === '0' && !/\d/.test(rest[1] ?? '')) {
      this.at++;
      return 0;
    }
    if (/[0-9A-Za-z]/.test(letter)) this.refuse(`“\\${letter}” means nothing here.`, start, this.at + 1);
    return this.character();
  }

  private class(): PatternNode {
    const start = this.at++;
    const negated = this.take('^');
    const written: CodeRange[] = [];
    const named: CodeRange[] = [];
    const properties: Property[] = [];
    const into = { named, properties };
    while (!this.is(']')) {
      if (this.done) this.refuse('This square bracket is not closed.', start, start + 1);
      const from = this.at;
      const low = this.classAtom(into);
      if (!this.is('-') || this.source[this.at + 1] === ']' || this.at + 1 >= this.source.length) {
        if (low !== undefined) written.push([low, low]);
        continue;
      }
      this.at++;
      const high = this.classAtom(into);
      if (low === undefined || high === undefined) {
        this.refuse('A range goes from one character to another.', from, this.at);
      }
      if (high < low) this.refuse('The ends of this range are the wrong way round.', from, this.at);
      written.push([low, high]);
    }
    this.at++;
    return { type: 'set', set: { written, named: normalRanges(named), properties, negated } };
  }

  /** Reads a character of a class; a named class is added to `into` and gives undefined. */
  private classAtom(into: { named: CodeRange[]; properties: Property[] }): number | undefined {
    const start = this.at;
    if (!this.take('\\')) return this.character();
    if (this.take('b')) return 8;
    if (this.take('-')) return 0x2d;
    const found = this.namedClass(start);
    if (!found) return this.escapedCharacter(start);
    into.named.push(...found.named);
    into.properties.push(...found.properties);
    return undefined;
  }
}

/** @returns the tree, or the problem with its place in the source. Never throws. */
export function parsePattern(source: string): { readonly tree: PatternNode } | { readonly problem: Notice } {
  try {
    return { tree: new PatternParser(source).parse() };
  } catch (error) {
    if (error instanceof Refusal) return { problem: error.problem };
    throw error;
  }
}
