/**
 * The words reading: a walk over the text, which never fails. What cannot be meant as written is taken as the
 * plain characters it is, and a notice says so.
 *
 *     choice  = all { "|" all }
 *     all     = { item }
 *     item    = [ "-" ] ( [ scope ] "(" choice ")" | [ scope ] term | compare )
 *
 * Brackets may be as deep as the text is long, so they are kept on a stack of the parser's own and not on the platform's.
 * Terms are read by `words-terms.ts`, and what they are made of by `words-scanner.ts`.
 */
import { columnNamed, type NamedColumn } from './columns.js';
import type { Keyword, Node, Notice, Settings } from './tree.js';
import { DASH, WordsScanner } from './words-scanner.js';
import { TermReader, type ColumnScope } from './words-terms.js';

/** A choice that is being read: the whole text, or what stands in a pair of brackets. */
interface Level {
  /** Ways of the choice that are read to their end. */
  readonly ways: Node[];
  asked: Node[];
  absent: Node[];
  /** Where the brackets begin. */
  readonly bracket: number;
  /** The item was asked to be absent. */
  readonly negated: boolean;
  /** The scope outside of the brackets. */
  readonly scope: ColumnScope | undefined;
}

/** The signs that do what some people write in capitals. */
const JOINING = {
  AND: { says: 'Words side by side are all asked for.', instead: '' },
  OR: { says: 'A “|” between words asks for either.', instead: '|' },
  NOT: { says: 'A “-” before a word asks for rows without it.', instead: '-' },
} as const;

export class WordsParser {
  private readonly scanner: WordsScanner;
  private readonly terms: TermReader;
  private readonly levels: Level[] = [];
  private scope: ColumnScope | undefined;

  constructor(
    text: string,
    private readonly settings: Settings,
    private readonly columns: readonly NamedColumn[],
    /** Why a pattern cannot be read, with offsets into it; undefined if it can. */
    checkPattern: (source: string) => Notice | undefined,
  ) {
    this.scanner = new WordsScanner(text);
    this.terms = new TermReader(this.scanner, settings.where, checkPattern);
  }

  get keywords(): readonly Keyword[] {
    return this.terms.keywords;
  }

  get notices(): readonly Notice[] {
    return this.scanner.notices;
  }

  get problem(): Notice | undefined {
    return this.terms.problem;
  }

  parse(): Node | undefined {
    const { scanner } = this;
    this.open(0, false, undefined);
    for (;;) {
      scanner.skipSpaces();
      if (scanner.atClose) {
        const node = this.close();
        if (this.levels.length === 0) return node;
      } else if (scanner.is('|')) this.bar();
      else this.item();
    }
  }

  private open(bracket: number, negated: boolean, scope: ColumnScope | undefined): void {
    this.levels.push({ ways: [], asked: [], absent: [], bracket, negated, scope });
    this.scanner.depth = this.levels.length - 1;
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
    const { scanner } = this;
    const start = scanner.at++;
    const before = this.endWay(this.levels.at(-1)!);
    scanner.skipSpaces();
    const after = !scanner.is('|') && !scanner.atClose;
    if (!before || !after) scanner.note(start, start + 1, '“|” has nothing on one side and was ignored.');
  }

  /** Ends the innermost choice, and puts what it asks where its brackets stand. */
  private close(): Node | undefined {
    const { scanner, terms } = this;
    const level = this.levels.pop()!;
    this.endWay(level);
    const { ways, bracket, negated } = level;
    const node: Node | undefined = ways.length < 2 ? ways[0] : { type: 'any', of: ways };
    if (this.levels.length === 0) return node;
    scanner.depth = this.levels.length - 1;
    if (scanner.is(')')) scanner.at++;
    else scanner.note(bracket, bracket + 1, 'This bracket is not closed; it was closed at the end.');
    if (!node) scanner.note(bracket, scanner.at, 'There is nothing in these brackets; they were ignored.');
    this.scope = level.scope;
    if (negated) terms.negations--;
    this.put(node, negated);
    return node;
  }

  private put(node: Node | undefined, negated: boolean): void {
    if (!node) return;
    const level = this.levels.at(-1)!;
    if (negated) level.absent.push({ type: 'not', of: node });
    else level.asked.push(node);
  }

  /** `AND`, `OR` and `NOT` are words like others; what is typed for what they may be meant for is said. */
  private noteJoiningWord(): void {
    const { scanner } = this;
    const joining = scanner.joiningWord();
    const { asked, absent } = this.levels.at(-1)!;
    if (!joining || (joining.word !== 'NOT' && asked.length + absent.length === 0)) return;
    const { says, instead } = JOINING[joining.word];
    const end = instead === '|' ? scanner.at + joining.word.length : joining.next;
    const message = `“${joining.word}” is looked for as a word. ${says}`;
    scanner.notices.push({ kind: 'sign', message, start: scanner.at, end, instead });
  }

  private item(): void {
    const { scanner, terms } = this;
    const start = scanner.at;
    this.noteJoiningWord();
    const negated = scanner.sign() === DASH;
    if (negated) {
      scanner.at++;
      if (scanner.atBreak) {
        scanner.note(start, scanner.at, '“-” has nothing after it and was ignored.');
        return;
      }
      terms.negations++;
    }
    const outer = this.scope;
    const node = this.scopedItem(start);
    if (node === 'brackets') {
      this.open(scanner.at++, negated, outer);
      return;
    }
    this.scope = outer;
    if (negated) terms.negations--;
    this.put(node, negated);
  }

  /** An item but for its dash. @returns 'brackets' if they open here, in the scope that is set by then */
  private scopedItem(start: number): Node | undefined | 'brackets' {
    const named = this.named(start);
    if (named !== 'no name') return named;
    return this.scanner.is('(') ? 'brackets' : this.terms.term(start, this.scope);
  }

  /**
   * Reads `column:` and sets the scope, or a whole comparison. Leaves the place as it was if no name stands here.
   * @returns the node of what was read (undefined if it asks nothing), or 'no name' if a term comes next
   */
  private named(start: number): Node | undefined | 'brackets' | 'no name' {
    const { scanner, terms } = this;
    const begin = scanner.at;
    // What begins so is no name, and may hold the signs that come after one.
    if ('/~=<>(:'.includes(scanner.text[begin])) return 'no name';
    const name = scanner.name();
    const scoping = scanner.is(':');
    const compared = scoping ? undefined : scanner.comparisonSign();
    if (name === undefined || name === '' || (!scoping && !compared)) {
      scanner.at = begin;
      return 'no name';
    }
    const end = scanner.at;
    const choice = columnNamed(this.columns, name);
    if (choice.found !== 'one') {
      scanner.at = begin;
      const why =
        choice.found === 'none'
          ? `There is no column “${name}”`
          : `“${name}” begins the names of ${choice.names.length} columns`;
      const until = scoping ? end + 1 : compared!.signEnd;
      scanner.note(begin, until, `${why}; this was searched for as text.`, 'name');
      // What follows it without a space belongs to it.
      return terms.word(start, scanner.word(false, true), this.settings.where, this.scope);
    }
    const scope = { index: choice.index, column: this.columns[choice.index] };
    if (compared) {
      scanner.at = compared.after;
      return terms.compare(start, scope, compared.sign);
    }
    scanner.at = end + 1;
    this.scope = scope;
    scanner.skipSpaces();
    if (scanner.atBreak) {
      scanner.note(begin, end + 1, `Nothing is asked of “${scope.column.name}” yet.`);
      return undefined;
    }
    const sign = scanner.comparisonSign();
    if (sign) {
      scanner.at = sign.after;
      return terms.compare(start, scope, sign.sign);
    }
    return scanner.is('(') ? 'brackets' : terms.term(start, scope);
  }
}
