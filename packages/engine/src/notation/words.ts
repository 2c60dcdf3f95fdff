/**
 * The words reading: a recursive descent over the text, which never fails. What cannot be meant as written is taken as the
 * plain characters it is, and a notice says so.
 *
 *     choice  = all { "|" all }
 *     all     = { item }
 *     item    = [ "-" ] ( [ scope ] "(" choice ")" | [ scope ] term | compare )
 */
import { isSpace, plainSign } from '../text/index.js';
import { columnNamed, type NamedColumn } from './columns.js';
import {
  ANY_RUN,
  ONE_CHARACTER,
  type Keyword,
  type Node,
  type Notice,
  type Settings,
  type Term,
  type Where,
} from './tree.js';
import { comparison, range, type Comparison } from './values.js';

const QUOTE = 0x22;
const DASH = 0x2d;

/** One character of a word, and whether an escape took its meaning away. */
interface Sign {
  readonly text: string;
  readonly escaped: boolean;
}

interface Scope {
  readonly index: number;
  readonly column: NamedColumn;
}

export class WordsParser {
  private at = 0;
  private depth = 0;
  private negations = 0;
  private scope: Scope | undefined;
  private drawn = 0;
  readonly keywords: Keyword[] = [];
  readonly notices: Notice[] = [];
  problem: Notice | undefined;

  constructor(
    private readonly text: string,
    private readonly settings: Settings,
    private readonly columns: readonly NamedColumn[],
    /** Why a pattern cannot be read, with offsets into it; undefined if it can. */
    private readonly checkPattern: (source: string) => Notice | undefined,
  ) {}

  parse(): Node | undefined {
    return this.choice();
  }

  private get done(): boolean {
    return this.at >= this.text.length;
  }

  /** The sign at an offset, curly quotes and long dashes taken as the plain ones; -1 at the end. */
  private sign(offset = this.at): number {
    return offset < this.text.length ? plainSign(this.text.charCodeAt(offset)) : -1;
  }

  private is(character: string): boolean {
    return this.text[this.at] === character;
  }

  private skipSpaces(): void {
    while (!this.done && isSpace(this.text.charCodeAt(this.at))) this.at++;
  }

  private note(start: number, end: number, message: string): void {
    this.notices.push({ message, start, end });
  }

  private choice(): Node | undefined {
    const parts: Node[] = [];
    for (;;) {
      const part = this.all();
      if (part) parts.push(part);
      if (!this.is('|')) break;
      const start = this.at++;
      this.skipSpaces();
      const nothingAfter = this.done || this.is('|') || (this.depth > 0 && this.is(')'));
      if (!part || nothingAfter) this.note(start, start + 1, '“|” has nothing on one side and was ignored.');
    }
    return parts.length < 2 ? parts[0] : { type: 'any', of: parts };
  }

  private all(): Node | undefined {
    const asked: Node[] = [];
    const absent: Node[] = [];
    for (this.skipSpaces(); !this.done && !this.is('|') && !(this.depth > 0 && this.is(')')); this.skipSpaces()) {
      const signed = this.sign() === DASH;
      const node = this.item();
      if (node) (signed ? absent : asked).push(node);
    }
    // Under "any word" what is to be absent is still all required to be.
    const of = this.settings.need === 'any word' && asked.length > 1 ? [{ type: 'any' as const, of: asked }] : asked;
    const parts = [...of, ...absent];
    return parts.length < 2 ? parts[0] : { type: 'all', of: parts };
  }

  private item(): Node | undefined {
    const start = this.at;
    if (this.sign() === DASH) {
      this.at++;
      if (this.atBreak()) {
        this.note(start, this.at, '“-” has nothing after it and was ignored.');
        return undefined;
      }
      this.negations++;
      const of = this.unsigned(start);
      this.negations--;
      return of && { type: 'not', of };
    }
    return this.unsigned(start);
  }

  /** At the end of an item: a space, the end, or a sign that closes what is around it. */
  private atBreak(): boolean {
    return this.done || isSpace(this.text.charCodeAt(this.at)) || this.is('|') || (this.depth > 0 && this.is(')'));
  }

  private unsigned(start: number): Node | undefined {
    const outer = this.scope;
    const compared = this.scopeOrCompare(start);
    if (compared !== 'no') {
      this.scope = outer;
      return compared;
    }
    const sign = this.scope && this.looseComparison();
    if (sign) {
      this.at = sign.after;
      const node = this.compare(start, this.scope!, sign.sign);
      this.scope = outer;
      return node;
    }
    const node = this.is('(') ? this.group() : this.term(start);
    this.scope = outer;
    return node;
  }

  private group(): Node | undefined {
    const start = this.at++;
    this.depth++;
    const node = this.choice();
    this.depth--;
    if (this.is(')')) this.at++;
    else this.note(start, start + 1, 'This bracket is not closed; it was closed at the end.');
    if (!node) this.note(start, this.at, 'There is nothing in these brackets; they were ignored.');
    return node;
  }

  /**
   * Reads `column:` and sets the scope, or reads a whole comparison. Leaves the place as it was if neither stands here.
   * @returns the comparison's node (or undefined if it asks nothing); 'no' if what follows is a term
   */
  private scopeOrCompare(start: number): Node | undefined | 'no' {
    const begin = this.at;
    let name: string;
    if (this.sign() === QUOTE) {
      const close = this.closingQuote(begin);
      if (close < 0) return 'no';
      name = this.text.slice(begin + 1, close).replace(/\\(.)/gs, '$1');
      this.at = close + 1;
    } else {
      while (!this.atBreak() && !'(":<>='.includes(this.text[this.at]) && this.sign() !== QUOTE && !this.is('\\'))
        this.at++;
      name = this.text.slice(begin, this.at);
    }
    const quoted = this.sign(begin) === QUOTE;
    const end = this.at;
    const scoping = this.is(':') && name !== '';
    const loose = this.looseComparison();
    if (name === '' || (!scoping && !loose)) {
      this.at = begin;
      return 'no';
    }
    const choice = columnNamed(this.columns, name);
    if (choice.found !== 'one') {
      const tight = scoping || /[<>]/.test(this.text[end] ?? '');
      this.at = begin;
      if (tight && !(scoping && this.scope)) {
        const why =
          choice.found === 'none'
            ? `There is no column “${name}”`
            : `“${name}” begins the names of ${choice.names.length} columns`;
        this.note(begin, end + (scoping ? 1 : 0), `${why}; this was searched for as text.`);
      }
      return 'no';
    }
    const scope = { index: choice.index, column: this.columns[choice.index] };
    if (scoping) {
      this.at = end + 1;
      this.scope = scope;
      this.skipSpaces();
      if (this.atBreak()) {
        this.note(begin, end + 1, `Nothing is asked of “${scope.column.name}” yet.`);
        return undefined;
      }
      return 'no';
    }
    // A bare word before a spaced-out sign is a column only if it is one by its whole name or in quotes.
    if (loose!.spaced && !quoted && scope.column.name.toLowerCase() !== name.toLowerCase()) {
      this.at = begin;
      return 'no';
    }
    this.at = loose!.after;
    return this.compare(start, scope, loose!.sign);
  }

  /** A comparison sign here, with spaces around it or not. */
  private looseComparison(): { sign: Comparison; after: number; spaced: boolean } | undefined {
    const match = /^(\s*)(>=|<=|>|<)(\s*)/.exec(this.text.slice(this.at, this.at + 40));
    if (!match) return undefined;
    const after = this.at + match[0].length;
    const spaced = match[1] !== '' || match[3] !== '';
    if (/^<(blank|filled)>/i.test(this.text.slice(this.at + match[1].length))) return undefined;
    return { sign: match[2] as Comparison, after, spaced };
  }

  private compare(start: number, scope: Scope, sign: Comparison): Node | undefined {
    const from = this.at;
    const value = this.atBreak() ? undefined : this.value(false);
    if (value === undefined || value.trim() === '') {
      this.note(start, this.at, `“${scope.column.name} ${sign}” has no value after it and was ignored.`);
      return undefined;
    }
    return this.valued(start, scope, comparison(scope.column, sign, value), value, from);
  }

  private valued(start: number, scope: Scope, term: Term | undefined, value: string, from: number): Node {
    if (!term) {
      const kind = scope.column.kind === 'date' ? 'a date' : 'a number';
      this.note(from, this.at, `“${value}” cannot be read as ${kind}, so no row of “${scope.column.name}” matches it.`);
    }
    return this.hit(start, term ?? { type: 'nothing' }, scope);
  }

  /** A word or phrase as a value. @param ranged stop before `..` */
  private value(ranged: boolean): string | undefined {
    if (this.sign() === QUOTE) return this.phrase();
    const signs = this.word(ranged);
    return signs.length === 0 ? undefined : signs.map(({ text }) => text).join('');
  }

  private term(start: number): Node | undefined {
    const { scope } = this;
    if (scope) {
      const ranged = this.range(start, scope);
      if (ranged) return ranged;
    }
    const special = /^<(blank|filled)>/i.exec(this.text.slice(this.at, this.at + 8));
    if (special) {
      this.at += special[0].length;
      return this.hit(start, { type: special[1].toLowerCase() as 'blank' | 'filled' });
    }
    if (this.sign() === QUOTE) return this.text_(start, this.phrase(), this.settings.where);
    if (this.is('/')) return this.pattern(start);
    if (this.is('~') || this.is('=')) return this.signed(start);
    return this.wordTerm(start, this.word(false), this.settings.where);
  }

  private signed(start: number): Node | undefined {
    const sign = this.text[this.at++];
    if (sign === '=' && this.sign() === QUOTE) return this.text_(start, this.phrase(), 'whole cell');
    const signs = this.atBreak() || this.sign() === QUOTE ? [] : this.word(false);
    if (signs.length === 0) {
      this.note(start, this.at, `“${sign}” has nothing after it and was ignored.`);
      return undefined;
    }
    if (sign === '=') return this.wordTerm(start, signs, 'whole cell');
    return this.hit(start, { type: 'near', word: signs.map(({ text }) => text).join('') });
  }

  private text_(start: number, text: string, where: Where): Node | undefined {
    if (text.trim() === '') {
      this.note(start, this.at, 'There is nothing between these quotes; they were ignored.');
      return undefined;
    }
    return this.hit(start, { type: 'text', text, where });
  }

  private wordTerm(start: number, signs: readonly Sign[], where: Where): Node {
    const wild = signs.some(({ text, escaped }) => !escaped && (text === '*' || text === '?'));
    const text = signs.map((sign) => sign.text).join('');
    if (!wild) return this.hit(start, { type: 'text', text, where });
    return this.hit(start, { type: 'wildcard', template: templateOf(signs), where });
  }

  private pattern(start: number): Node | undefined {
    const from = ++this.at;
    while (!this.done && !this.is('/')) this.at += this.is('\\') ? 2 : 1;
    if (this.at >= this.text.length) {
      this.at = this.text.length;
      this.problem ??= {
        message: 'The pattern is not finished: it wants a “/” at its end.',
        start,
        end: this.text.length,
      };
      return undefined;
    }
    const source = this.text.slice(from, this.at);
    this.at++;
    const problem = this.checkPattern(source);
    if (problem) {
      const place = (offset: number): number => from + Math.min(offset, this.at - 1 - from);
      this.problem ??= { message: problem.message, start: place(problem.start), end: place(problem.end) };
      return undefined;
    }
    return this.hit(start, { type: 'pattern', source });
  }

  /** `low..high` within a scope. Leaves the place as it was if there is none here. */
  private range(start: number, scope: Scope): Node | undefined {
    const begin = this.at;
    const noticed = this.notices.length;
    const low = this.text.startsWith('..', this.at)
      ? undefined
      : this.is('/') || this.is('~')
        ? undefined
        : this.value(true);
    if (!this.text.startsWith('..', this.at)) {
      this.at = begin;
      this.notices.length = noticed;
      return undefined;
    }
    this.at += 2;
    const high = this.atBreak() ? undefined : this.value(false);
    if (low === undefined && high === undefined) {
      this.note(begin, this.at, 'This range has no value at either end and was ignored.');
      return { type: 'all', of: [] };
    }
    const value = this.text.slice(begin, this.at);
    return this.valued(start, scope, range(scope.column, low, high), value, begin);
  }

  private closingQuote(open: number): number {
    for (let at = open + 1; at < this.text.length; at++) {
      if (this.text[at] === '\\') at++;
      else if (this.sign(at) === QUOTE) return at;
    }
    return -1;
  }

  private phrase(): string {
    const open = this.at;
    const close = this.closingQuote(open);
    const end = close < 0 ? this.text.length : close;
    if (close < 0) this.note(open, open + 1, 'This quote is not closed; it was closed at the end.');
    this.at = close < 0 ? end : close + 1;
    return this.text.slice(open + 1, end).replace(/\\(.)/gs, '$1');
  }

  /** The signs of a word, up to a space or a sign that ends it. */
  private word(ranged: boolean): Sign[] {
    const signs: Sign[] = [];
    while (!this.atBreak() && !this.is('(') && this.sign() !== QUOTE) {
      if (ranged && this.text.startsWith('..', this.at)) break;
      if (this.is('\\') && this.at + 1 < this.text.length) {
        const text = String.fromCodePoint(this.text.codePointAt(this.at + 1)!);
        signs.push({ text, escaped: true });
        this.at += 1 + text.length;
        continue;
      }
      const text = String.fromCodePoint(this.text.codePointAt(this.at)!);
      if (text === ')')
        this.note(this.at, this.at + 1, 'This bracket closes nothing; it was searched for as a character.');
      signs.push({ text, escaped: false });
      this.at += text.length;
    }
    return signs;
  }

  private hit(start: number, term: Term, scope = this.scope): Node {
    const number = this.negations > 0 ? 0 : ++this.drawn;
    this.keywords.push({ number, text: this.text.slice(start, this.at), start, end: this.at });
    return { type: 'hit', term, columns: scope && [scope.index], keyword: number };
  }
}

/** A wildcard's template: unescaped `?` and `*` as their signs, all else as it is. */
export function templateOf(signs: readonly Sign[]): string {
  return signs
    .map(({ text, escaped }) => (escaped ? text : text === '*' ? ANY_RUN : text === '?' ? ONE_CHARACTER : text))
    .join('');
}
