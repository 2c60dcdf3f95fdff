/** The pieces that the words reading is made of, one at a time: signs, words, phrases, names. Each leaves the place after it. */
import { isSpace, plainSign } from '../text/index.js';
import { ANY_RUN, ONE_CHARACTER, type Notice, type NoticeKind } from './tree.js';
import type { Comparison } from './values.js';

export const QUOTE = 0x22;
export const DASH = 0x2d;

/** A character of a word, and whether an escape took its meaning away. */
export interface Sign {
  readonly text: string;
  readonly escaped: boolean;
}

/** Gives what the signs say, as letters. */
export function textOf(signs: readonly Sign[]): string {
  return signs.map(({ text }) => text).join('');
}

/** A wildcard's template: unescaped `?` and `*` as their signs, all else as it is. */
export function templateOf(signs: readonly Sign[]): string {
  return signs
    .map(({ text, escaped }) => (escaped ? text : text === '*' ? ANY_RUN : text === '?' ? ONE_CHARACTER : text))
    .join('');
}

export class WordsScanner {
  at = 0;
  /** How many brackets are open: without any, a closing one ends nothing. */
  depth = 0;
  readonly notices: Notice[] = [];

  constructor(readonly text: string) {}

  get done(): boolean {
    return this.at >= this.text.length;
  }

  /** The sign at an offset, curly quotes and long dashes taken as the plain ones; -1 at the end. */
  sign(offset = this.at): number {
    return offset < this.text.length ? plainSign(this.text.charCodeAt(offset)) : -1;
  }

  is(character: string): boolean {
    return this.text[this.at] === character;
  }

  skipSpaces(): void {
    while (!this.done && isSpace(this.text.charCodeAt(this.at))) this.at++;
  }

  note(start: number, end: number, message: string, kind: NoticeKind = 'sign'): void {
    this.notices.push({ kind, message, start, end });
  }

  /**
   * A word in capitals here that elsewhere joins what stands on its sides, with something after it.
   * @returns the word, and where what comes after it begins; the place stays
   */
  joiningWord(): { readonly word: 'AND' | 'OR' | 'NOT'; readonly next: number } | undefined {
    const match = /^(AND|OR|NOT)(\s+)[^\s|)]/.exec(this.text.slice(this.at));
    return match ? { word: match[1] as 'AND', next: this.at + match[1].length + match[2].length } : undefined;
  }

  /** True at the bracket that closes the innermost one, or at the end, which closes all. */
  get atClose(): boolean {
    return this.done || (this.depth > 0 && this.is(')'));
  }

  /** True at the end of an item: a space, the end, or a sign that closes what is around it. */
  get atBreak(): boolean {
    return this.atClose || isSpace(this.text.charCodeAt(this.at)) || this.is('|');
  }

  /** A name, in quotes or not, up to what may stand after one; undefined for a quote that is not closed. */
  name(): string | undefined {
    const begin = this.at;
    if (this.sign() === QUOTE) {
      const close = this.closingQuote(begin);
      if (close < 0) return undefined;
      this.at = close + 1;
      return unescaped(this.text.slice(begin + 1, close));
    }
    const ends = (): boolean =>
      '(:<>=\\'.includes(this.text[this.at]) || this.sign() === QUOTE || this.text.startsWith('!=', this.at);
    while (!this.atBreak && !ends()) this.at++;
    return this.text.slice(begin, this.at);
  }

  /** A comparison sign here, with spaces around it or not; but a space before `=` makes it a term of its own. The place stays. */
  comparisonSign(): { sign: Comparison; signEnd: number; after: number } | undefined {
    const match = /^(\s*)(>=|<=|<>|!=|>|<|=)(\s*)/.exec(this.text.slice(this.at));
    if (!match || (match[2] === '=' && match[1] !== '')) return undefined;
    const from = this.at + match[1].length;
    if (/^<(blank|filled)>/i.test(this.text.slice(from, from + 8))) return undefined;
    const sign = match[2] === '!=' ? '<>' : (match[2] as Comparison);
    return { sign, signEnd: from + match[2].length, after: this.at + match[0].length };
  }

  /** `<blank>` or `<filled>`, if one stands here. */
  special(): 'blank' | 'filled' | undefined {
    const special = /^<(blank|filled)>/i.exec(this.text.slice(this.at, this.at + 8));
    if (!special) return undefined;
    this.at += special[0].length;
    return special[1].toLowerCase() as 'blank' | 'filled';
  }

  private closingQuote(open: number): number {
    for (let at = open + 1; at < this.text.length; at++) {
      if (this.text[at] === '\\') at++;
      else if (this.sign(at) === QUOTE) return at;
    }
    return -1;
  }

  phrase(): string {
    const open = this.at;
    const close = this.closingQuote(open);
    const end = close < 0 ? this.text.length : close;
    if (close < 0) this.note(open, open + 1, 'This quote is not closed; it was closed at the end.');
    this.at = close < 0 ? end : close + 1;
    return unescaped(this.text.slice(open + 1, end));
  }

  /** A word or phrase as a value; undefined if neither stands here. @param ranged stop before `..` */
  value(ranged: boolean): string | undefined {
    if (this.sign() === QUOTE) return this.phrase();
    const signs = this.word(ranged);
    return signs.length === 0 ? undefined : textOf(signs);
  }

  /**
   * The signs of a word, up to a space or a sign that ends it.
   * @param ranged stop before `..`
   * @param joined quotes and brackets do not end it; what is quoted is taken as it is
   */
  word(ranged: boolean, joined = false): Sign[] {
    const signs: Sign[] = [];
    while (!this.atBreak && (joined || (!this.is('(') && this.sign() !== QUOTE))) {
      if (ranged && this.text.startsWith('..', this.at)) break;
      if (this.sign() === QUOTE) {
        for (const text of this.phrase()) signs.push({ text, escaped: true });
        continue;
      }
      const escaped = this.is('\\') && this.at + 1 < this.text.length;
      if (escaped) this.at++;
      const text = String.fromCodePoint(this.text.codePointAt(this.at)!);
      if (text === ')' && !escaped)
        this.note(this.at, this.at + 1, 'This bracket closes nothing; it was searched for as a character.');
      signs.push({ text, escaped });
      this.at += text.length;
    }
    return signs;
  }
}

function unescaped(text: string): string {
  return text.replace(/\\(.)/gs, '$1');
}
