/**
 * The words reading: a walk over the text, which never fails. What cannot be meant as written is taken as the
 * plain characters it is, and a notice says so.
 *
 *     choice  = all { "|" all }
 *     all     = { item }
 *     item    = [ "-" ] ( [ scope ] "(" choice ")" | [ scope ] term | compare )
 *
 * Brackets may be as deep as the text is long, so they are kept on a stack of the parser's own and not on the platform's.
 */
import { isSpace, plainSign } from '../text/index.js';
import { columnNamed, type NamedColumn } from './columns.js';
import {
  ANY_RUN,
  ONE_CHARACTER,
  type Keyword,
  type Node,
  type Notice,
  type NoticeKind,
  type Settings,
  type Term,
  type Where,
} from './tree.js';
import { comparison, range, valued, type Comparison } from './values.js';

const QUOTE = 0x22;
const DASH = 0x2d;

/** One character of a word, and whether an escape took its meaning away. */
interface Sign {
  readonly text: string;
  readonly escaped: boolean;
}

/** A choice that is being read: the whole text, or what stands in a pair of brackets. */
interface Level {
  /** Ways of the choice that are read to their end. */
  readonly ways: Node[];
  asked: Node[];
  absent: Node[];
  /** Where the item begins that these brackets are, and where the brackets do. */
  readonly item: number;
  readonly bracket: number;
  /** The item was asked to be absent. */
  readonly negated: boolean;
  /** The scope outside of the brackets. */
  readonly scope: Scope | undefined;
}

interface Scope {
  readonly index: number;
  readonly column: NamedColumn;
}

export class WordsParser {
  private at = 0;
  private readonly levels: Level[] = [];
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
    this.open(0, 0, false, undefined);
    for (;;) {
      this.skipSpaces();
      if (this.done || (this.bracketed && this.is(')'))) {
        const node = this.close();
        if (this.levels.length === 0) return node;
      } else if (this.is('|')) this.bar();
      else this.item();
    }
  }

  private get done(): boolean {
    return this.at >= this.text.length;
  }

  private get bracketed(): boolean {
    return this.levels.length > 1;
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

  private note(start: number, end: number, message: string, kind: NoticeKind = 'sign'): void {
    this.notices.push({ kind, message, start, end });
  }

  private open(item: number, bracket: number, negated: boolean, scope: Scope | undefined): void {
    this.levels.push({ ways: [], asked: [], absent: [], item, bracket, negated, scope });
  }

  /** Ends the items that stand side by side, as one way of the choice. @returns false if nothing is asked by them */
  private endWay(level: Level): boolean {
    const { asked, absent } = level;
    // Under "any word" what is to be absent is still all required to be.
    const of = this.settings.need === 'any word' && asked.length > 1 ? [{ type: 'any' as const, of: asked }] : asked;
    const parts = [...of, ...absent];
    level.asked = [];
    level.absent = [];
    if (parts.length > 0) level.ways.push(parts.length === 1 ? parts[0] : { type: 'all', of: parts });
    return parts.length > 0;
  }

  private bar(): void {
    const start = this.at++;
    const before = this.endWay(this.levels.at(-1)!);
    this.skipSpaces();
    const after = !this.done && !this.is('|') && !(this.bracketed && this.is(')'));
    if (!before || !after) this.note(start, start + 1, '“|” has nothing on one side and was ignored.');
  }

  /** Ends the innermost choice, and puts what it asks where its brackets stand. */
  private close(): Node | undefined {
    const level = this.levels.pop()!;
    this.endWay(level);
    const { ways, bracket, negated } = level;
    const node: Node | undefined = ways.length < 2 ? ways[0] : { type: 'any', of: ways };
    if (this.levels.length === 0) return node;
    if (this.is(')')) this.at++;
    else this.note(bracket, bracket + 1, 'This bracket is not closed; it was closed at the end.');
    if (!node) this.note(bracket, this.at, 'There is nothing in these brackets; they were ignored.');
    this.scope = level.scope;
    if (negated) this.negations--;
    this.put(node, negated);
    return node;
  }

  private put(node: Node | undefined, negated: boolean): void {
    if (!node) return;
    const level = this.levels.at(-1)!;
    if (negated) level.absent.push({ type: 'not', of: node });
    else level.asked.push(node);
  }

  private item(): void {
    const start = this.at;
    const negated = this.sign() === DASH;
    if (negated) {
      this.at++;
      if (this.atBreak()) {
        this.note(start, this.at, '“-” has nothing after it and was ignored.');
        return;
      }
      this.negations++;
    }
    const outer = this.scope;
    const node = this.scopedItem(start);
    if (node === 'brackets') {
      this.open(start, this.at++, negated, outer);
      return;
    }
    this.scope = outer;
    if (negated) this.negations--;
    this.put(node, negated);
  }

  /** At the end of an item: a space, the end, or a sign that closes what is around it. */
  private atBreak(): boolean {
    return this.done || isSpace(this.text.charCodeAt(this.at)) || this.is('|') || (this.bracketed && this.is(')'));
  }

  /** An item but for its dash. @returns 'brackets' if they open here, in the scope that is set by then */
  private scopedItem(start: number): Node | undefined | 'brackets' {
    const named = this.named(start);
    if (named !== 'no name') return named;
    if (this.is('(')) return 'brackets';
    return this.term(start);
  }

  /**
   * Reads `column:` and sets the scope, or a whole comparison. Leaves the place as it was if no name stands here.
   * @returns the node of what was read (undefined if it asks nothing), or 'no name' if a term comes next
   */
  private named(start: number): Node | undefined | 'brackets' | 'no name' {
    const begin = this.at;
    // What begins so is no name, and may hold the signs that come after one.
    if ('/~=<>(:'.includes(this.text[begin])) return 'no name';
    const name = this.name();
    const scoping = this.is(':');
    const compared = scoping ? undefined : this.comparisonSign();
    if (name === undefined || name === '' || (!scoping && !compared)) {
      this.at = begin;
      return 'no name';
    }
    const end = this.at;
    const choice = columnNamed(this.columns, name);
    if (choice.found !== 'one') {
      this.at = begin;
      const why =
        choice.found === 'none'
          ? `There is no column “${name}”`
          : `“${name}” begins the names of ${choice.names.length} columns`;
      const until = scoping ? end + 1 : compared!.signEnd;
      this.note(begin, until, `${why}; this was searched for as text.`, 'name');
      // What follows it without a space belongs to it.
      return this.wordTerm(start, this.word(false, true), this.settings.where);
    }
    const scope = { index: choice.index, column: this.columns[choice.index] };
    if (compared) {
      this.at = compared.after;
      return this.compare(start, scope, compared.sign);
    }
    this.at = end + 1;
    this.scope = scope;
    this.skipSpaces();
    if (this.atBreak()) {
      this.note(begin, end + 1, `Nothing is asked of “${scope.column.name}” yet.`);
      return undefined;
    }
    const sign = this.comparisonSign();
    if (sign) {
      this.at = sign.after;
      return this.compare(start, scope, sign.sign);
    }
    return this.is('(') ? 'brackets' : this.term(start);
  }

  /** A name, in quotes or not, up to what may stand after one; undefined for a quote that is not closed. */
  private name(): string | undefined {
    const begin = this.at;
    if (this.sign() === QUOTE) {
      const close = this.closingQuote(begin);
      if (close < 0) return undefined;
      this.at = close + 1;
      return this.text.slice(begin + 1, close).replace(/\\(.)/gs, '$1');
    }
    const ends = (): boolean =>
      '(:<>=\\'.includes(this.text[this.at]) || this.sign() === QUOTE || this.text.startsWith('!=', this.at);
    while (!this.atBreak() && !ends()) this.at++;
    return this.text.slice(begin, this.at);
  }

  /** A comparison sign here, with spaces around it or not; but a space before `=` makes it a term of its own. */
  private comparisonSign(): { sign: Comparison; signEnd: number; after: number } | undefined {
    const match = /^(\s*)(>=|<=|<>|!=|>|<|=)(\s*)/.exec(this.text.slice(this.at));
    if (!match || (match[2] === '=' && match[1] !== '')) return undefined;
    const from = this.at + match[1].length;
    if (/^<(blank|filled)>/i.test(this.text.slice(from, from + 8))) return undefined;
    const sign = match[2] === '!=' ? '<>' : (match[2] as Comparison);
    return { sign, signEnd: from + match[2].length, after: this.at + match[0].length };
  }

  private compare(start: number, scope: Scope, sign: Comparison): Node | undefined {
    const from = this.at;
    if (sign !== '<>') return this.compared(start, scope, sign, from);
    this.negations++;
    const of = this.compared(start, scope, '=', from);
    this.negations--;
    return of && { type: 'not', of };
  }

  private compared(start: number, scope: Scope, sign: Exclude<Comparison, '<>'>, from: number): Node | undefined {
    const phrase = this.sign() === QUOTE;
    const signs = this.atBreak() || phrase ? [] : this.word(false);
    const value = phrase ? this.phrase() : signs.map(({ text }) => text).join('');
    if (value.trim() === '') {
      this.note(start, this.at, `“${scope.column.name}” is compared with nothing yet; this was ignored.`);
      return undefined;
    }
    // A whole cell of text may be given by a wildcard.
    if (sign === '=' && !phrase && !valued(scope.column)) return this.wordTerm(start, signs, 'whole cell', scope);
    return this.valued(start, scope, comparison(scope.column, sign, value), value, from);
  }

  private valued(start: number, scope: Scope, term: Term | undefined, value: string, from: number): Node {
    if (!term) {
      const kind = scope.column.kind === 'date' ? 'a date' : 'a number';
      const message = `“${value}” cannot be read as ${kind}, so no row of “${scope.column.name}” matches it.`;
      this.note(from, this.at, message, 'value');
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

  private wordTerm(start: number, signs: readonly Sign[], where: Where, scope = this.scope): Node {
    const wild = signs.some(({ text, escaped }) => !escaped && (text === '*' || text === '?'));
    const text = signs.map((sign) => sign.text).join('');
    if (!wild) return this.hit(start, { type: 'text', text, where }, scope);
    return this.hit(start, { type: 'wildcard', template: templateOf(signs), where }, scope);
  }

  private pattern(start: number): Node | undefined {
    const from = ++this.at;
    while (!this.done && !this.is('/')) this.at += this.is('\\') ? 2 : 1;
    if (this.at >= this.text.length) {
      this.at = this.text.length;
      this.problem ??= {
        kind: 'refused',
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
      this.problem ??= { ...problem, start: place(problem.start), end: place(problem.end) };
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

  /**
   * The signs of a word, up to a space or a sign that ends it.
   * @param ranged stop before `..`
   * @param joined quotes and brackets do not end it; what is quoted is taken as it is
   */
  private word(ranged: boolean, joined = false): Sign[] {
    const signs: Sign[] = [];
    while (!this.atBreak() && (joined || (!this.is('(') && this.sign() !== QUOTE))) {
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
