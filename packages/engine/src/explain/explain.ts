/**
 * Why nothing was found, and the way out. Each reason is a change to the question and the rows that the changed question
 * gives, found by asking it; so what is offered is what comes of it. Most of such a question has been answered before and
 * is remembered, which is what makes a dozen of them quick.
 */
import { parse, type Keyword } from '../notation/index.js';
import { Search, type Question } from '../search/index.js';
import type { Table } from '../store/index.js';
import { changed, type Change } from './change.js';
import { nearSpellings } from './near-spellings.js';

export type ReasonKind =
  | 'near spelling'
  | 'other columns'
  | 'picker'
  | 'any word'
  | 'one keyword'
  | 'case'
  | 'accents'
  | 'position'
  | 'reading'
  | 'strand'
  | 'unreadable'
  | 'together';

export interface Reason {
  readonly kind: ReasonKind;
  readonly change: Change;
  /** Rows on show once the change is made. */
  readonly rows: number;
  /** The keyword it is about, as typed. */
  readonly keyword?: string;
  /** Strand and number of that keyword, as the search numbers them; 0 for none. */
  readonly strand?: number;
  /** Rows of the whole table that hold the word offered, or the keyword, in the columns named. */
  readonly found?: number;
  /** Columns it is about, with the rows of each. */
  readonly columns?: readonly { readonly column: number; readonly rows: number }[];
  /** The word offered, or what could not be read. */
  readonly text?: string;
}

/** Most reasons given. */
export const MOST_REASONS = 5;
/** Near spellings tried for one keyword. */
const SPELLINGS = 3;

interface Placed {
  readonly keyword: Keyword;
  readonly strand: number;
}

class Explainer {
  readonly reasons: Reason[] = [];

  constructor(
    private readonly table: Table,
    private readonly question: Question,
  ) {}

  private rowsOf(question: Question): number {
    return new Search(this.table, question).run().shown;
  }

  private offer(reason: Omit<Reason, 'rows'>, always = false): number {
    const rows = this.rowsOf(changed(this.question, reason.change));
    if (rows > 0 || always) this.reasons.push({ ...reason, rows });
    return rows;
  }

  /** Rows in which a text stands by itself, in some columns, without pickers or other strands. */
  private alone(text: string, reading: Question['strands'][0]['reading'], columns: readonly number[]): Search {
    const strands = [{ verb: 'find' as const, text, reading }];
    return new Search(this.table, { ...this.question, threaded: columns, pickers: [], strands, effect: 'show only matches', flip: false, sort: [] }).run(); // prettier-ignore
  }

  /** Keywords that are asked to be there, of strands that bring rows in or keep them. */
  private get placed(): Placed[] {
    const { strands, settings } = this.question;
    return strands.flatMap(({ verb, text, reading }, strand) =>
      verb === 'minus'
        ? []
        : parse(text, settings, this.table.columns, reading)
            .keywords.filter(({ number }) => number > 0)
            .map((keyword) => ({ keyword, strand })),
    );
  }

  /** @returns reasons, most useful first; a step before each search, so that the caller can stop in between */
  *steps(): Generator<void> {
    const fixes: Change[] = [];
    for (const placed of this.placed) {
      yield;
      const fix = this.explainKeyword(placed);
      if (fix) fixes.push(fix);
    }
    yield* this.explainPickers(fixes);
    yield* this.explainSettings();
    yield* this.explainStrands();
    yield* this.explainDropping();
    if (fixes.length > 1 && this.reasons.every(({ rows }) => rows === 0)) {
      yield;
      this.offer({ kind: 'together', change: { type: 'several', of: fixes } });
    }
  }

  /** A keyword that is in no row, or only in rows of columns that are not threaded. */
  private explainKeyword({ keyword, strand }: Placed): Change | undefined {
    const { threaded, strands } = this.question;
    const { text, start, end } = keyword;
    const { reading } = strands[strand];
    if (this.alone(text, reading, threaded).matched > 0) return undefined;
    const seen = this.question.visible ?? this.table.columns.map((_, i) => i);
    const others = seen.filter((column) => !threaded.includes(column));
    const elsewhere = this.alone(text, reading, others);
    if (elsewhere.matched > 0) {
      const columns = others
        .map((column) => ({ column, rows: elsewhere.columnTallies[column] }))
        .filter(({ rows }) => rows > 0)
        .sort((a, b) => b.rows - a.rows);
      const change: Change = { type: 'thread', columns: columns.map(({ column }) => column) };
      this.offer({ kind: 'other columns', change, keyword: text, strand, found: elsewhere.matched, columns }, true);
      return change;
    }
    if (reading !== 'words' && reading !== 'plain text') return undefined;
    let best: Change | undefined;
    let most = -1;
    for (const { word } of nearSpellings(this.table, threaded, text, SPELLINGS)) {
      const change: Change = { type: 'replace', strand, start, end, text: word };
      const found = this.alone(word, 'plain text', threaded).matched;
      if (found === 0) continue;
      const rows = this.offer({ kind: 'near spelling', change, keyword: text, strand, text: word, found }, true);
      if (rows > most) {
        most = rows;
        best = change;
      }
    }
    return best;
  }

  private *explainPickers(fixes: Change[]): Generator<void> {
    for (let picker = 0; picker < this.question.pickers.length; picker++) {
      yield;
      const { column } = this.question.pickers[picker];
      const change: Change = { type: 'open', picker };
      const columns = [{ column, rows: 0 }];
      if (this.offer({ kind: 'picker', change, columns }) === 0 && fixes.length > 0) fixes.push(change);
    }
  }

  private *explainSettings(): Generator<void> {
    const { settings, strands } = this.question;
    if (settings.need === 'every word' && this.placed.length > 1) {
      yield;
      this.offer({ kind: 'any word', change: { type: 'need any word' } });
    }
    if (settings.case === 'respect') {
      yield;
      this.offer({ kind: 'case', change: { type: 'ignore case' } });
    }
    if (settings.accents === 'respect') {
      yield;
      this.offer({ kind: 'accents', change: { type: 'ignore accents' } });
    }
    if (settings.where !== 'anywhere') {
      yield;
      this.offer({ kind: 'position', change: { type: 'match anywhere' } });
    }
    for (const [strand, { reading }] of strands.entries()) {
      if (reading === 'words') continue;
      yield;
      this.offer({ kind: 'reading', strand, change: { type: 'read as words', strand } });
    }
  }

  private *explainStrands(): Generator<void> {
    for (const [strand, { verb, text }] of this.question.strands.entries()) {
      if (verb !== 'minus' && verb !== 'within') continue;
      yield;
      this.offer({ kind: 'strand', strand, text, change: { type: 'remove strand', strand } });
    }
  }

  /** Of the keywords that are each found but never together: leave out the one without which most rows are left. */
  private *explainDropping(): Generator<void> {
    let best: { placed: Placed; change: Change; rows: number } | undefined;
    const { placed } = this;
    if (placed.length > 1) {
      for (const one of placed) {
        yield;
        const { start, end } = one.keyword;
        const change: Change = { type: 'replace', strand: one.strand, start, end, text: '' };
        const rows = this.rowsOf(changed(this.question, change));
        if (rows > (best?.rows ?? 0)) best = { placed: one, change, rows };
      }
    }
    if (best) {
      const { placed: one, change, rows } = best;
      this.reasons.push({ kind: 'one keyword', keyword: one.keyword.text, strand: one.strand, change, rows });
    }
    for (const [strand, { text, reading }] of this.question.strands.entries()) {
      const { notices } = parse(text, this.question.settings, this.table.columns, reading);
      for (const { message, start, end } of notices.filter((notice) =>
        /no column|cannot be read/.test(notice.message),
      )) {
        yield;
        const change: Change = { type: 'replace', strand, start, end, text: '' };
        this.offer({ kind: 'unreadable', strand, text: message, change });
      }
    }
  }
}

const USEFUL: readonly ReasonKind[] = [
  'together', 'near spelling', 'other columns', 'unreadable', 'picker', 'strand', 'case', 'accents', 'position', 'reading',
  'any word', 'one keyword',
]; // prettier-ignore

/** The reasons worth giving: those that give rows first; one near spelling a keyword, the one that gives most. */
function chosen(reasons: readonly Reason[]): Reason[] {
  const kept: Reason[] = [];
  const ordered = [...reasons].sort(
    (a, b) =>
      Number(b.rows > 0) - Number(a.rows > 0) ||
      USEFUL.indexOf(a.kind) - USEFUL.indexOf(b.kind) ||
      b.rows - a.rows ||
      (b.found ?? 0) - (a.found ?? 0),
  );
  for (const reason of ordered) {
    const told = kept.some(
      (one) => one.kind === reason.kind && one.kind === 'near spelling' && one.keyword === reason.keyword,
    );
    if (!told) kept.push(reason);
  }
  return kept.slice(0, MOST_REASONS);
}

/**
 * Reasons why a question shows no row, at most five, most useful first. A generator that rests between searches and
 * returns them at its end; stop asking and it is cancelled.
 */
export function* explainSteps(table: Table, question: Question): Generator<void, Reason[]> {
  const explainer = new Explainer(table, question);
  yield* explainer.steps();
  return chosen(explainer.reasons);
}

/** `explainSteps`, run to its end. */
export function explain(table: Table, question: Question): Reason[] {
  const steps = explainSteps(table, question);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
