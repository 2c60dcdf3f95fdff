/** The terms of the words reading: a word, phrase, pattern, comparison or range, with the column that it is asked of, if one is named. */
import type { NamedColumn } from './columns.js';
import type { Keyword, Node, Notice, Term, Where } from './tree.js';
import { comparison, range, valued, type Comparison } from './values.js';
import { QUOTE, templateOf, textOf, type Sign, type WordsScanner } from './words-scanner.js';

/** The column that terms are asked of. */
export interface ColumnScope {
  readonly index: number;
  readonly column: NamedColumn;
}

export class TermReader {
  /** How many of the things around what is read are asked to be absent. */
  negations = 0;
  readonly keywords: Keyword[] = [];
  problem: Notice | undefined;
  private drawn = 0;

  constructor(
    private readonly scanner: WordsScanner,
    private readonly where: Where,
    /** Why a pattern cannot be read, with offsets into it; undefined if it can. */
    private readonly checkPattern: (source: string) => Notice | undefined,
  ) {}

  /**
   * Reads one term.
   * @param start where its item begins
   * @returns undefined if it asks nothing
   */
  term(start: number, scope: ColumnScope | undefined): Node | undefined {
    const { scanner } = this;
    const ranged = scope && this.range(start, scope);
    if (ranged) return ranged;
    const special = scanner.special();
    if (special) return this.hit(start, { type: special }, scope);
    if (scanner.sign() === QUOTE) return this.phrase(start, this.where, scope);
    if (scanner.is('/')) return this.pattern(start, scope);
    if (scanner.is('~') || scanner.is('=')) return this.signed(start, scope);
    return this.word(start, scanner.word(false), this.where, scope);
  }

  /** Reads what a column is compared with, the sign being read. @returns undefined if that is nothing */
  compare(start: number, scope: ColumnScope, sign: Comparison): Node | undefined {
    const from = this.scanner.at;
    if (sign !== '<>') return this.compared(start, scope, sign, from);
    this.negations++;
    const of = this.compared(start, scope, '=', from);
    this.negations--;
    return of && { type: 'not', of };
  }

  /** The term that a word says. */
  word(start: number, signs: readonly Sign[], where: Where, scope: ColumnScope | undefined): Node {
    const wild = signs.some(({ text, escaped }) => !escaped && (text === '*' || text === '?'));
    if (!wild) return this.hit(start, { type: 'text', text: textOf(signs), where }, scope);
    return this.hit(start, { type: 'wildcard', template: templateOf(signs), where }, scope);
  }

  private compared(start: number, scope: ColumnScope, sign: Exclude<Comparison, '<>'>, from: number): Node | undefined {
    const { scanner } = this;
    const phrase = scanner.sign() === QUOTE;
    const signs = scanner.atBreak || phrase ? [] : scanner.word(false);
    const value = phrase ? scanner.phrase() : textOf(signs);
    if (value.trim() === '') {
      scanner.note(start, scanner.at, `“${scope.column.name}” is compared with nothing yet; this was ignored.`);
      return undefined;
    }
    // A whole cell of text may be given by a wildcard.
    if (sign === '=' && !phrase && !valued(scope.column)) return this.word(start, signs, 'whole cell', scope);
    return this.valued(start, scope, comparison(scope.column, sign, value), value, from);
  }

  private valued(start: number, scope: ColumnScope, term: Term | undefined, value: string, from: number): Node {
    if (!term) {
      const kind = scope.column.kind === 'date' ? 'a date' : 'a number';
      const example = scope.column.example?.();
      const like = example === undefined ? '' : ` Its cells look like “${example}”.`;
      const message = `“${value}” cannot be read as ${kind}, so no row of “${scope.column.name}” matches it.${like}`;
      this.scanner.note(from, this.scanner.at, message, 'value');
    }
    return this.hit(start, term ?? { type: 'nothing' }, scope);
  }

  private phrase(start: number, where: Where, scope: ColumnScope | undefined): Node | undefined {
    const { scanner } = this;
    const text = scanner.phrase();
    if (text.trim() !== '') return this.hit(start, { type: 'text', text, where }, scope);
    scanner.note(start, scanner.at, 'There is nothing between these quotes; they were ignored.');
    return undefined;
  }

  /** A word after `~` or `=`. */
  private signed(start: number, scope: ColumnScope | undefined): Node | undefined {
    const { scanner } = this;
    const sign = scanner.text[scanner.at++];
    if (sign === '=' && scanner.sign() === QUOTE) return this.phrase(start, 'whole cell', scope);
    const signs = scanner.atBreak || scanner.sign() === QUOTE ? [] : scanner.word(false);
    if (signs.length === 0) {
      scanner.note(start, scanner.at, `“${sign}” has nothing after it and was ignored.`);
      return undefined;
    }
    if (sign === '=') return this.word(start, signs, 'whole cell', scope);
    return this.hit(start, { type: 'near', word: textOf(signs) }, scope);
  }

  private pattern(start: number, scope: ColumnScope | undefined): Node | undefined {
    const { scanner } = this;
    const { text } = scanner;
    const from = ++scanner.at;
    while (!scanner.done && !scanner.is('/')) scanner.at += scanner.is('\\') ? 2 : 1;
    if (scanner.done) {
      scanner.at = text.length;
      const message = 'The pattern is not finished: it wants a “/” at its end.';
      this.problem ??= { kind: 'refused', message, start, end: text.length };
      return undefined;
    }
    const to = scanner.at++;
    const source = text.slice(from, to);
    const problem = this.checkPattern(source);
    if (problem) {
      const place = (offset: number): number => from + Math.min(offset, to - from);
      this.problem ??= { ...problem, start: place(problem.start), end: place(problem.end) };
      return undefined;
    }
    return this.hit(start, { type: 'pattern', source }, scope);
  }

  /** `low..high` within a scope. Leaves the place as it was if there is none here. */
  private range(start: number, scope: ColumnScope): Node | undefined {
    const { scanner } = this;
    const begin = scanner.at;
    const noticed = scanner.notices.length;
    const dots = (): boolean => scanner.text.startsWith('..', scanner.at);
    const low = dots() || scanner.is('/') || scanner.is('~') ? undefined : scanner.value(true);
    if (!dots()) {
      scanner.at = begin;
      scanner.notices.length = noticed;
      return undefined;
    }
    scanner.at += 2;
    const high = scanner.atBreak ? undefined : scanner.value(false);
    if (low === undefined && high === undefined) {
      scanner.note(begin, scanner.at, 'This range has no value at either end and was ignored.');
      return { type: 'all', of: [] };
    }
    const value = scanner.text.slice(begin, scanner.at);
    return this.valued(start, scope, range(scope.column, low, high), value, begin);
  }

  private hit(start: number, term: Term, scope: ColumnScope | undefined): Node {
    const { at, text } = this.scanner;
    const number = this.negations > 0 ? 0 : ++this.drawn;
    this.keywords.push({ number, text: text.slice(start, at), start, end: at });
    return { type: 'hit', term, columns: scope && [scope.index], keyword: number };
  }
}
